/**
 * A singing voice by source and filter (Fant 1960): a glottal pulse train through a cascade of formant
 * resonators, with breath noise, scoops, drift, delayed vibrato and legato glides. It knows exactly what it
 * sings: the notes and the fundamental frequency come back beside the sound.
 */
import { createRandom, gaussian } from '@plundra/core/signal';
import { midiToHz } from '@plundra/core/theory';

export interface SungNote {
  startSeconds: number;
  endSeconds: number;
  midi: number;
  /** 0–1 */
  loudness: number;
  vowel: Vowel;
  /** Glides from the note before without a gap in the voice. */
  legato?: boolean;
  /** Cents below the note at its start, gone after about 120 ms. */
  scoopCents?: number;
  /** Half the peak-to-peak width. */
  vibratoCents?: number;
  vibratoHz?: number;
  /** The voice breaks for a moment in the middle of the note. */
  crack?: boolean;
  /** Breath is drawn before the note. */
  breathBefore?: boolean;
  /** Starts with a noise consonant ("s", "t") of about 60 ms before the vowel. */
  consonant?: boolean;
}

export type Vowel = 'a' | 'e' | 'i' | 'o' | 'u';

export interface Voice {
  /** Formant frequencies are multiplied by this; about 0.85 low male, 1 alto, 1.12 soprano. */
  tract: number;
  /** Share of breath in the source, 0–1. */
  breath: number;
  /** Slow random wander of pitch, standard deviation in cents. */
  driftCents: number;
}

export interface Sung {
  samples: Float32Array;
  /** The sung fundamental every {@link CONTROL_SECONDS}; 0 where the voice is silent. */
  f0Hz: Float32Array;
}

/** Spacing of the control curves. */
export const CONTROL_SECONDS = 0.002;

/** Formants 1–5 of an adult singer in Hz with bandwidths (Fant 1960; Sundberg 1987, rounded). */
const FORMANTS: Record<Vowel, number[]> = {
  a: [720, 1180, 2700, 3300, 4200],
  e: [450, 1900, 2650, 3350, 4200],
  i: [300, 2150, 2900, 3500, 4300],
  o: [460, 850, 2600, 3200, 4100],
  u: [320, 720, 2500, 3150, 4100],
};
const BANDWIDTHS_HZ = [80, 90, 120, 150, 200];

export function sing(
  notes: SungNote[],
  voice: Voice,
  durationSeconds: number,
  sampleRateHz: number,
  seed: number,
): Sung {
  const random = createRandom(seed);
  const steps = Math.ceil(durationSeconds / CONTROL_SECONDS);
  const { midi, level, formants } = controlCurves(notes, voice, steps, random);
  const total = Math.ceil(durationSeconds * sampleRateHz);
  const samples = new Float32Array(total);
  const perStep = CONTROL_SECONDS * sampleRateHz;
  const filters = BANDWIDTHS_HZ.map((bandwidth) => createResonator(bandwidth, sampleRateHz));

  let phase = 0;
  let tilt = 0;
  let shimmer = 1;
  for (let i = 0; i < total; i++) {
    const position = i / perStep;
    const step = Math.min(steps - 2, Math.floor(position));
    const mix = position - step;
    const loud = level[step] + (level[step + 1] - level[step]) * mix;
    if (step % 2 === 0 && mix < 1 / perStep) {
      for (let k = 0; k < filters.length; k++) filters[k].tune(formants[k][step]);
    }
    const f0Hz = midiToHz(midi[step] + (midi[step + 1] - midi[step]) * mix);
    phase += f0Hz / sampleRateHz;
    if (phase >= 1) {
      phase -= 1;
      shimmer = 1 + 0.04 * gaussian(random);
    }
    // Rosenberg's (1971) glottal flow, differentiated: rises over 40 % of the period, closes over 16 %.
    const pulse = glottalSlope(phase) * shimmer;
    const noise = (random() * 2 - 1) * voice.breath * (0.35 + 0.65 * openness(phase));
    // Louder singing is brighter: the one-pole tilt opens with level.
    const open = 0.25 + 0.6 * loud;
    tilt += open * (pulse + noise - tilt);
    let value = tilt * loud;
    for (const filter of filters) value = filter.run(value);
    samples[i] = value;
  }
  evenOut(samples, sampleRateHz);
  addConsonants(samples, notes, sampleRateHz, random);
  addBreaths(samples, notes, sampleRateHz, random);
  normalise(samples, 0.5);
  const f0Hz = new Float32Array(steps);
  for (let i = 0; i < steps; i++) f0Hz[i] = level[i] > 0.02 ? midiToHz(midi[i]) : 0;
  return { samples, f0Hz };
}

/**
 * Evens the loudness of vowels and pitches out as a singer does: some formants lie on a harmonic, others between
 * two, and the filter alone would make one note five times as loud as the next.
 */
function evenOut(samples: Float32Array, sampleRateHz: number): void {
  const reach = 1 - Math.exp(-1 / (0.08 * sampleRateHz));
  const usual = Math.sqrt(samples.reduce((sum, value) => sum + value * value, 0) / samples.length) || 1;
  let power = usual * usual;
  for (let i = 0; i < samples.length; i++) {
    power += reach * (samples[i] * samples[i] - power);
    // Silence is not lifted.
    samples[i] *= (usual / Math.max(Math.sqrt(power), usual * 0.25)) ** 0.6;
  }
}

function controlCurves(notes: SungNote[], voice: Voice, steps: number, random: () => number) {
  const midi = new Float32Array(steps).fill(notes[0]?.midi ?? 60);
  const level = new Float32Array(steps);
  const formants = BANDWIDTHS_HZ.map((_, k) => new Float32Array(steps).fill(FORMANTS.a[k] * voice.tract));
  let drift = 0;
  let fast = 0;
  const wander = new Float32Array(steps);
  for (let i = 0; i < steps; i++) {
    drift = drift * 0.997 + gaussian(random) * voice.driftCents * 0.077;
    fast = fast * 0.9 + gaussian(random) * 2;
    wander[i] = drift + fast;
  }
  notes.forEach((note, index) => {
    const previous = notes[index - 1];
    const next = notes[index + 1];
    const glide = note.legato && previous ? 0.07 + 0.05 * random() : 0;
    const first = Math.floor((note.startSeconds - glide / 2) / CONTROL_SECONDS);
    const releases = !(next?.legato ?? false);
    const last = Math.min(steps - 1, Math.ceil((note.endSeconds + (releases ? 0.06 : 0)) / CONTROL_SECONDS));
    const vibratoHz = note.vibratoHz ?? 5.6;
    let vibratoPhase = random() * 2 * Math.PI;
    for (let i = Math.max(0, first); i <= last; i++) {
      const t = i * CONTROL_SECONDS - note.startSeconds;
      const scoop = (note.scoopCents ?? 0) * Math.exp(-Math.max(0, t) / 0.045);
      const grown = Math.min(1, Math.max(0, (t - 0.22) / 0.3));
      vibratoPhase += 2 * Math.PI * vibratoHz * CONTROL_SECONDS * (1 + 0.05 * (random() - 0.5));
      const vibrato = (note.vibratoCents ?? 0) * grown * Math.sin(vibratoPhase);
      let target = note.midi + (vibrato - scoop + wander[i]) / 100;
      if (glide > 0 && t < glide / 2 && previous) {
        const along = 0.5 - 0.5 * Math.cos(Math.PI * Math.min(1, Math.max(0, (t + glide / 2) / glide)));
        target = midi[i] * (1 - along) + target * along;
      }
      midi[i] = target;
      const attack = note.legato ? 1 : Math.min(1, Math.max(0, (t + 0.012) / 0.045));
      const toEnd = note.endSeconds + (releases ? 0.06 : 10) - i * CONTROL_SECONDS;
      const release = Math.min(1, Math.max(0, toEnd / 0.09));
      const length = note.endSeconds - note.startSeconds;
      const swell = 0.85 + 0.15 * Math.sin(Math.PI * Math.min(1, Math.max(0, t / length)));
      const dip = note.legato ? 1 - 0.25 * Math.exp(-((t / 0.04) ** 2)) : 1;
      const broken = note.crack ? 1 - 0.97 * Math.exp(-(((t - 0.45 * length) / 0.035) ** 4)) : 1;
      const loud = note.loudness * attack * release * swell * dip * broken;
      level[i] = Math.max(note.legato && t < 0 ? level[i] : 0, loud);
      for (let k = 0; k < formants.length; k++) {
        const wanted = FORMANTS[note.vowel][k] * voice.tract;
        const before = i > 0 ? formants[k][i - 1] : wanted;
        formants[k][i] = before + (wanted - before) * 0.06;
      }
    }
  });
  return { midi, level, formants };
}

function glottalSlope(phase: number): number {
  if (phase < 0.4) return 0.5 * Math.sin((Math.PI * phase) / 0.4) * 2.2;
  if (phase < 0.56) return -Math.sin((Math.PI / 2) * ((phase - 0.4) / 0.16)) * 5.5;
  return 0;
}

function openness(phase: number): number {
  return phase < 0.56 ? 1 : 0;
}

/** Two-pole resonator with unity gain at 0 Hz (Klatt 1980). */
function createResonator(bandwidthHz: number, sampleRateHz: number) {
  const radius = Math.exp((-Math.PI * bandwidthHz) / sampleRateHz);
  let a = 1;
  let b = 0;
  const c = -(radius * radius);
  let y1 = 0;
  let y2 = 0;
  return {
    tune(centreHz: number) {
      b = 2 * radius * Math.cos((2 * Math.PI * centreHz) / sampleRateHz);
      a = 1 - b - c;
    },
    run(x: number): number {
      const y = a * x + b * y1 + c * y2;
      y2 = y1;
      y1 = y;
      return y;
    },
  };
}

function addConsonants(samples: Float32Array, notes: SungNote[], sampleRateHz: number, random: () => number) {
  const lift = 0.06 * peak(samples);
  for (const note of notes) {
    if (!note.consonant) continue;
    const start = Math.round((note.startSeconds - 0.075) * sampleRateHz);
    const count = Math.round(0.06 * sampleRateHz);
    let last = 0;
    for (let i = 0; i < count; i++) {
      const white = random() * 2 - 1;
      const high = white - last;
      last = white;
      const at = start + i;
      if (at >= 0 && at < samples.length)
        samples[at] += high * lift * Math.sin((Math.PI * i) / count) * note.loudness;
    }
  }
}

function addBreaths(samples: Float32Array, notes: SungNote[], sampleRateHz: number, random: () => number) {
  const loudness = 0.035 * peak(samples);
  for (const note of notes) {
    if (!note.breathBefore) continue;
    const count = Math.round(0.32 * sampleRateHz);
    const start = Math.round((note.startSeconds - 0.48) * sampleRateHz);
    let low = 0;
    for (let i = 0; i < count; i++) {
      low += 0.25 * (random() * 2 - 1 - low);
      const at = start + i;
      if (at >= 0 && at < samples.length)
        samples[at] += 2.5 * low * loudness * Math.sin((Math.PI * i) / count) ** 2;
    }
  }
}

function peak(samples: Float32Array): number {
  let most = 0;
  for (const value of samples) most = Math.max(most, Math.abs(value));
  return most;
}

export function normalise(samples: Float32Array, level: number): void {
  const most = peak(samples);
  if (most > 0) for (let i = 0; i < samples.length; i++) samples[i] *= level / most;
}
