/**
 * A third singing synthesiser, for the test set only: every glottal pulse sets off five decaying formant waves
 * (fonctions d'onde formantique, Rodet 1984). Formant frequencies, levels and bandwidths are those of the table
 * "Formant values" in the manual of Csound (from memory).
 */
import { createRandom, gaussian, type Random } from '@plundra/core/signal';
import { midiToHz } from '@plundra/core/theory';
import type { SungNote, Vowel } from '@plundra/demo';

export const FOF_RATE_HZ = 44100;
/** Rise of a formant wave. */
const RISE_SECONDS = 0.003;
const GRAIN_SECONDS = 0.022;

interface Formants {
  hz: number[];
  db: number[];
  widthHz: number[];
}

const TABLES: Record<'soprano' | 'alto' | 'tenor' | 'bass', Record<Vowel, [number[], number[]]>> = {
  soprano: {
    a: [
      [800, 1150, 2900, 3900, 4950],
      [0, -6, -32, -20, -50],
    ],
    e: [
      [350, 2000, 2800, 3600, 4950],
      [0, -20, -15, -40, -56],
    ],
    i: [
      [270, 2140, 2950, 3900, 4950],
      [0, -12, -26, -26, -44],
    ],
    o: [
      [450, 800, 2830, 3800, 4950],
      [0, -11, -22, -22, -50],
    ],
    u: [
      [325, 700, 2700, 3800, 4950],
      [0, -16, -35, -40, -60],
    ],
  },
  alto: {
    a: [
      [800, 1150, 2800, 3500, 4950],
      [0, -4, -20, -36, -60],
    ],
    e: [
      [400, 1600, 2700, 3300, 4950],
      [0, -24, -30, -35, -60],
    ],
    i: [
      [350, 1700, 2700, 3700, 4950],
      [0, -20, -30, -36, -60],
    ],
    o: [
      [450, 800, 2830, 3500, 4950],
      [0, -9, -16, -28, -55],
    ],
    u: [
      [325, 700, 2530, 3500, 4950],
      [0, -12, -30, -40, -64],
    ],
  },
  tenor: {
    a: [
      [650, 1080, 2650, 2900, 3250],
      [0, -6, -7, -8, -22],
    ],
    e: [
      [400, 1700, 2600, 3200, 3580],
      [0, -14, -12, -14, -20],
    ],
    i: [
      [290, 1870, 2800, 3250, 3540],
      [0, -15, -18, -20, -30],
    ],
    o: [
      [400, 800, 2600, 2800, 3000],
      [0, -10, -12, -12, -26],
    ],
    u: [
      [350, 600, 2700, 2900, 3300],
      [0, -20, -17, -14, -26],
    ],
  },
  bass: {
    a: [
      [600, 1040, 2250, 2450, 2750],
      [0, -7, -9, -9, -20],
    ],
    e: [
      [400, 1620, 2400, 2800, 3100],
      [0, -12, -9, -12, -18],
    ],
    i: [
      [250, 1750, 2600, 3050, 3340],
      [0, -30, -16, -22, -28],
    ],
    o: [
      [400, 750, 2400, 2600, 2900],
      [0, -11, -21, -20, -40],
    ],
    u: [
      [350, 600, 2400, 2675, 2950],
      [0, -20, -32, -28, -36],
    ],
  },
};
const WIDTHS_HZ = [70, 85, 110, 125, 130];

function formantsOf(tract: number, vowel: Vowel): Formants {
  const voice = tract >= 1.08 ? 'soprano' : tract >= 0.99 ? 'alto' : tract >= 0.9 ? 'tenor' : 'bass';
  const [hz, db] = TABLES[voice][vowel];
  return { hz, db, widthHz: WIDTHS_HZ };
}

/** Sings; `f0Hz` has one value a sample, 0 where silent; `onsets` are the starts as they sound. */
export function singFof(
  notes: SungNote[],
  tract: number,
  durationSeconds: number,
  seed: number,
): { samples: Float32Array; f0Hz: Float32Array; onsets: number[] } {
  const random = createRandom(seed);
  const samples = new Float32Array(Math.ceil(durationSeconds * FOF_RATE_HZ));
  const { f0Hz, level, onsets } = trajectory(notes, samples.length, random);
  const breath = 0.02 + 0.05 * random();
  let phase = 1;
  let noteIndex = 0;
  for (let i = 0; i < samples.length; i++) {
    if (f0Hz[i] === 0) continue;
    while (noteIndex + 1 < notes.length && notes[noteIndex + 1].startSeconds * FOF_RATE_HZ <= i) noteIndex++;
    phase += f0Hz[i] / FOF_RATE_HZ;
    samples[i] += breath * 0.2 * level[i] * gaussian(random);
    if (phase < 1) continue;
    phase -= 1;
    // The pulse fell between two samples.
    const late = phase / (f0Hz[i] / FOF_RATE_HZ);
    const shimmer = 1 + 0.03 * gaussian(random);
    addGrains(samples, i, late, level[i] * shimmer, formantsOf(tract, notes[noteIndex].vowel), f0Hz[i]);
  }
  const peak = samples.reduce((most, value) => Math.max(most, Math.abs(value)), 1e-9);
  return { samples: samples.map((value) => (value * 0.5) / peak), f0Hz, onsets };
}

function addGrains(
  out: Float32Array,
  at: number,
  late: number,
  gain: number,
  formants: Formants,
  f0: number,
) {
  const length = Math.min(out.length - at, Math.round(GRAIN_SECONDS * FOF_RATE_HZ));
  for (let k = 0; k < formants.hz.length; k++) {
    // A singer keeps the first formant above the pitch.
    const hz = k === 0 ? Math.max(formants.hz[0], f0 * 1.02) : formants.hz[k];
    const amplitude = gain * 10 ** (formants.db[k] / 20);
    const decay = Math.PI * formants.widthHz[k];
    for (let i = 0; i < length; i++) {
      const t = (i + late) / FOF_RATE_HZ;
      const rise = t < RISE_SECONDS ? 0.5 - 0.5 * Math.cos((Math.PI * t) / RISE_SECONDS) : 1;
      const fade = Math.min(1, (GRAIN_SECONDS - t) / 0.004);
      out[at + i] +=
        amplitude * rise * Math.max(0, fade) * Math.exp(-decay * t) * Math.sin(2 * Math.PI * hz * t);
    }
  }
}

function trajectory(notes: SungNote[], length: number, random: Random) {
  const f0Hz = new Float32Array(length);
  const level = new Float32Array(length);
  const onsets: number[] = [];
  notes.forEach((note, index) => {
    const previous = notes[index - 1];
    const next = notes[index + 1];
    const start = Math.round(note.startSeconds * FOF_RATE_HZ);
    const fall = next?.legato ? 0 : 0.04 + 0.06 * random();
    const end = Math.min(length, Math.round((note.endSeconds + fall) * FOF_RATE_HZ));
    const attack = 0.025 + 0.05 * random();
    const glide = 0.03 + 0.05 * random();
    const from = note.legato && previous ? previous.midi : note.midi - (note.scoopCents ?? 0) / 100;
    const wander = 4 + 6 * random();
    const phases = [random(), random()].map((turn) => 2 * Math.PI * turn);
    // A soft start is heard a little after its first sample: where it passes −15 dB.
    onsets.push(note.startSeconds + (note.legato ? 0 : attack * 0.28));
    const begin = note.legato ? Math.max(0, start - Math.round(glide * FOF_RATE_HZ)) : start;
    for (let i = begin; i < end; i++) {
      const t = (i - start) / FOF_RATE_HZ;
      const way = note.legato ? 0.5 + 0.5 * Math.tanh((2.2 * t) / glide) : 1 - Math.exp(-t / 0.045);
      const grown = Math.min(1, Math.max(0, (t - 0.2) / 0.3));
      const vibrato =
        (note.vibratoCents ?? 0) *
        grown *
        Math.sin(2 * Math.PI * (note.vibratoHz ?? 5.5) * t + 0.3 * Math.sin(t));
      const drift = wander * (Math.sin(2.1 * t + phases[0]) + 0.6 * Math.sin(4.7 * t + phases[1]));
      f0Hz[i] = midiToHz(from + (note.midi - from) * way + (vibrato + drift) / 100);
      const rise = note.legato || t >= attack ? 1 : 0.5 - 0.5 * Math.cos((Math.PI * t) / attack);
      const left = (end - i) / FOF_RATE_HZ;
      level[i] = note.loudness * rise * (fall > 0 ? Math.min(1, left / fall) : 1);
    }
    if (note.consonant) addConsonant(level, start);
  });
  return { f0Hz, level, onsets };
}

/** The mouth closes for a moment before a consonant. */
function addConsonant(level: Float32Array, start: number) {
  const half = Math.round(0.02 * FOF_RATE_HZ);
  for (let i = Math.max(0, start - half); i < start; i++) level[i] *= (start - i) / half;
}
