/**
 * Clips of synthetic singing. Three unrelated syntheses: `sourceFilterClip` (pulse train through resonators, the
 * one of the demo songs; for tuning), `additiveClip` (harmonics weighted by a vowel envelope; for the check set) and
 * `fofClip` (formant waves; for testing).
 */
import { createRandom, gaussian, type Random } from '@plundra/core/signal';
import { midiToHz } from '@plundra/core/theory';
import { CONTROL_SECONDS, sing, type SungNote, type Vowel } from '@plundra/demo';
import { TRUTH_HOP_SECONDS, type Clip } from './clip.ts';
import { FOF_RATE_HZ, singFof } from './fofSinger.ts';
import { composeMelody } from './melody.ts';
import { addNoise, addReverb } from './room.ts';

const RATE = 44100;
const DURATION_SECONDS = 14;
const VOWELS: Vowel[] = ['a', 'e', 'i', 'o', 'u'];

export interface SingerPlan {
  name: string;
  lowMidi: number;
  highMidi: number;
  tract: number;
  vibratoCents: number;
  legato: number;
  hall: boolean;
}

function plainNotes(plan: SingerPlan, random: Random): { notes: SungNote[]; detuneCents: number } {
  const detuneCents = (random() * 2 - 1) * 20;
  const melody = composeMelody(
    {
      lowMidi: plan.lowMidi,
      highMidi: plan.highMidi,
      durationSeconds: DURATION_SECONDS,
      legato: plan.legato,
      timingSeconds: 0.02,
      shortestBeats: 0.5,
    },
    random,
  );
  const notes = melody.map((note) => ({
    ...note,
    // Single notes wander within ±25 cents on top of the clip's own tuning of ±20: ±45 in all.
    midi: note.midi + (detuneCents + (random() * 2 - 1) * 25) / 100,
    vowel: VOWELS[Math.floor(random() * VOWELS.length)],
    scoopCents: random() < 0.4 ? 60 + 140 * random() : 0,
    vibratoCents: random() < 0.75 ? plan.vibratoCents * (0.6 + 0.8 * random()) : 0,
    vibratoHz: 5 + 1.4 * random(),
    consonant: !note.legato && random() < 0.4,
  }));
  return { notes, detuneCents };
}

function finishClip(
  plan: SingerPlan,
  notes: SungNote[],
  samples: Float32Array,
  f0: (t: number) => number,
  random: Random,
): Clip {
  if (plan.hall) addReverb(samples, RATE, 0.2 + 0.15 * random(), 1.2 + random());
  addNoise(samples, 30 + 25 * random(), random);
  const f0Hz = new Float32Array(Math.ceil(DURATION_SECONDS / TRUTH_HOP_SECONDS));
  for (let i = 0; i < f0Hz.length; i++) f0Hz[i] = f0(i * TRUTH_HOP_SECONDS);
  return {
    name: `${plan.name}${plan.hall ? ' in a hall' : ''}`,
    group: 'singing',
    kind: 'voice',
    sampleRateHz: RATE,
    samples,
    notes: notes.map(({ startSeconds, endSeconds, midi }) => ({ startSeconds, endSeconds, midi })),
    f0Hz,
  };
}

export function sourceFilterClip(plan: SingerPlan, seed: number): Clip {
  const random = createRandom(seed);
  const { notes } = plainNotes(plan, random);
  const voice = { tract: plan.tract, breath: 0.03 + 0.1 * random(), driftCents: 5 + 10 * random() };
  const sung = sing(notes, voice, DURATION_SECONDS, RATE, seed + 1);
  return finishClip(
    plan,
    notes,
    sung.samples,
    (t) => sung.f0Hz[Math.round(t / CONTROL_SECONDS)] ?? 0,
    random,
  );
}

export function fofClip(plan: SingerPlan, seed: number): Clip {
  const random = createRandom(seed);
  const { notes } = plainNotes(plan, random);
  const { samples, f0Hz, onsets } = singFof(notes, plan.tract, DURATION_SECONDS, seed + 1);
  const sounding = notes.map((note, i) => ({ ...note, startSeconds: onsets[i] }));
  return finishClip(plan, sounding, samples, (t) => f0Hz[Math.round(t * FOF_RATE_HZ)] ?? 0, random);
}

export function additiveClip(plan: SingerPlan, seed: number): Clip {
  const random = createRandom(seed);
  const { notes } = plainNotes(plan, random);
  const samples = new Float32Array(Math.ceil(DURATION_SECONDS * RATE));
  const f0 = new Float32Array(samples.length);
  const level = new Float32Array(samples.length);
  let last = notes[0].midi;
  notes.forEach((note, index) => {
    const next = notes[index + 1];
    const legatoNext = next?.legato ?? false;
    const start = Math.round(note.startSeconds * RATE);
    const tail = legatoNext ? 0 : 0.05 + 0.04 * random();
    const end = Math.min(samples.length, Math.round((note.endSeconds + tail) * RATE));
    const glideSeconds = note.legato ? 0.05 + 0.06 * random() : 0.001;
    const from = note.legato ? last : note.midi - (note.scoopCents ?? 0) / 100;
    const attackSeconds = 0.02 + 0.04 * random();
    let slow = 0;
    for (let i = Math.max(0, start - Math.round(note.legato ? (glideSeconds / 2) * RATE : 0)); i < end; i++) {
      const t = (i - start) / RATE;
      slow = slow * 0.99995 + gaussian(random) * 0.0006;
      const arrived = note.legato
        ? 1 / (1 + Math.exp((-t / glideSeconds) * 6))
        : 1 - Math.exp(-Math.max(0, t) / 0.05);
      const depth = (note.vibratoCents ?? 0) * Math.min(1, Math.max(0, (t - 0.15) / 0.4));
      const vibrato = (depth / 100) * Math.sin(2 * Math.PI * (note.vibratoHz ?? 5.5) * t);
      const midi = from + (note.midi - from) * arrived + vibrato + slow * 0.3;
      f0[i] = midiToHz(midi);
      last = note.midi;
      const rise = note.legato ? 1 : Math.min(1, t / attackSeconds + 0.15);
      const fall = legatoNext ? 1 : Math.min(1, (end - i) / RATE / 0.08);
      level[i] = note.loudness * Math.max(0, rise) * fall;
    }
  });
  let phase = 0;
  let vowelTilt = 0;
  let noteIndex = 0;
  const weights = new Float32Array(48);
  for (let i = 0; i < samples.length; i++) {
    if (f0[i] === 0) continue;
    while (noteIndex + 1 < notes.length && notes[noteIndex + 1].startSeconds * RATE <= i) noteIndex++;
    const count = Math.min(weights.length, Math.floor(9000 / f0[i]));
    if (i % 64 === 0) {
      for (let k = 1; k <= count; k++) {
        weights[k - 1] = vowelGain(k * f0[i], notes[noteIndex].vowel, plan.tract) / k ** 1.1;
      }
    }
    phase += f0[i] / RATE;
    phase -= Math.floor(phase);
    // Chebyshev recurrence: every harmonic from one sine and one cosine.
    const twice = 2 * Math.cos(2 * Math.PI * phase);
    let before = 0;
    let current = Math.sin(2 * Math.PI * phase);
    let sum = 0;
    for (let k = 0; k < count; k++) {
      sum += weights[k] * current;
      const following = twice * current - before;
      before = current;
      current = following;
    }
    vowelTilt += 0.5 * ((random() * 2 - 1) * 0.05 - vowelTilt);
    samples[i] = (sum + vowelTilt) * level[i];
  }
  let peak = 1e-9;
  for (const value of samples) peak = Math.max(peak, Math.abs(value));
  for (let i = 0; i < samples.length; i++) samples[i] *= 0.5 / peak;
  return finishClip(plan, notes, samples, (t) => f0[Math.min(f0.length - 1, Math.round(t * RATE))], random);
}

/** Two broad formant bumps over a floor; centres after Peterson & Barney 1952, rounded. */
function vowelGain(hz: number, vowel: Vowel, tract: number): number {
  const [first, second] = { a: [730, 1090], e: [530, 1840], i: [270, 2290], o: [570, 840], u: [300, 870] }[
    vowel
  ];
  const bump = (centre: number, width: number) => Math.exp(-(((hz - centre * tract) / width) ** 2));
  return 0.08 + bump(first, 220) + 0.5 * bump(second, 320) + 0.25 * bump(2800, 500);
}
