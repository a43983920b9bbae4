/** Lines with known errors of pitch and time, and the same lines without them. */
import { createRandom, gaussian } from '@plundra/core/signal';
import type { SungNote, Vowel } from '@plundra/demo';
import { TRUTH_HOP_SECONDS } from './clips/clip.ts';
import { FOF_RATE_HZ, singFof } from './clips/fofSinger.ts';
import { composeMelody, type ClipNote } from './clips/melody.ts';
import { recordedPlayer } from './clips/players.ts';
import { loadRecordedNotes, type RecordedNote } from './clips/recordedNotes.ts';

export interface RetuneClip {
  name: string;
  group: 'singing' | 'plucked';
  kind: 'voice' | 'guitar' | 'bass';
  samples: Float32Array;
  /** The line without errors: what a perfect correction would sound like. */
  clean: Float32Array;
  notes: {
    startSeconds: number;
    endSeconds: number;
    midi: number;
    /** What it should be; its start is heard on the grid. */
    toMidi: number;
    toStartSeconds: number;
    legato: boolean;
    vibrato: boolean;
  }[];
  beatSeconds: number;
  firstBeatSeconds: number;
}

export const RETUNE_RATE_HZ = FOF_RATE_HZ;
const DURATION_SECONDS = 14;
/** Errors: even within ± this, and Gaussian. */
const MAX_CENTS = 35;
const TIMING_SECONDS = 0.025;
const VOWELS: Vowel[] = ['a', 'e', 'i', 'o', 'u'];

const SINGERS = [
  { name: 'soprano', low: 62, high: 79, tract: 1.1, vibratoCents: 50 },
  { name: 'alto', low: 56, high: 74, tract: 1.02, vibratoCents: 40 },
  { name: 'tenor', low: 50, high: 68, tract: 0.94, vibratoCents: 45 },
  { name: 'bass voice', low: 43, high: 62, tract: 0.85, vibratoCents: 30 },
];
const PLUCKED = [
  { name: 'nylon guitar', source: 'guitar-nylon', low: 45, high: 76, kind: 'guitar' },
  { name: 'acoustic guitar', source: 'guitar-acoustic', low: 45, high: 72, kind: 'guitar' },
  { name: 'electric guitar', source: 'guitar-electric', low: 45, high: 79, kind: 'guitar' },
  { name: 'electric bass', source: 'bass-electric', low: 28, high: 50, kind: 'bass' },
] as const;

export async function* buildRetuneClips(rounds: number): AsyncGenerator<RetuneClip> {
  for (let round = 0; round < rounds; round++) {
    for (const [i, singer] of SINGERS.entries()) yield sungClip(singer, 8800000 + round * 100 + i);
    for (const [i, plucked] of PLUCKED.entries()) yield pluckedClip(plucked, 8900000 + round * 100 + i);
  }
}

function melody(low: number, high: number, legato: number, seed: number): ClipNote[] {
  const random = createRandom(seed);
  return composeMelody(
    {
      lowMidi: low,
      highMidi: high,
      durationSeconds: DURATION_SECONDS,
      legato,
      timingSeconds: 0,
      shortestBeats: 0.5,
    },
    random,
  );
}

/** The same notes with errors; a legato note pulls the end of the one before with it. */
function withErrors(notes: ClipNote[], seed: number): ClipNote[] {
  const random = createRandom(seed);
  const wrong = notes.map((note) => {
    const late = Math.max(-0.05, Math.min(0.05, gaussian(random) * TIMING_SECONDS));
    return {
      ...note,
      midi: note.midi + ((random() * 2 - 1) * MAX_CENTS) / 100,
      startSeconds: note.startSeconds + late,
      endSeconds: note.endSeconds + late,
    };
  });
  wrong.forEach((note, i) => {
    const next = wrong[i + 1];
    if (next)
      note.endSeconds = next.legato ? next.startSeconds : Math.min(note.endSeconds, next.startSeconds - 0.02);
  });
  return wrong;
}

function sungClip(singer: (typeof SINGERS)[number], seed: number): RetuneClip {
  const right = melody(singer.low, singer.high, 0.35, seed);
  const random = createRandom(seed + 1);
  const dress = right.map((): Omit<SungNote, keyof ClipNote> => ({
    vowel: VOWELS[Math.floor(random() * VOWELS.length)],
    scoopCents: random() < 0.3 ? 60 + 80 * random() : 0,
    vibratoCents: random() < 0.6 ? singer.vibratoCents * (0.7 + 0.6 * random()) : 0,
    vibratoHz: 5 + 1.2 * random(),
    consonant: false,
  }));
  const wrong = withErrors(right, seed + 2);
  const sing = (notes: ClipNote[], plain: boolean) =>
    singFof(
      notes.map((note, i): SungNote => ({ ...note, ...dress[i], ...(plain && { vibratoCents: 0 }) })),
      singer.tract,
      DURATION_SECONDS,
      seed + 3,
    );
  const sung = sing(wrong, false);
  return {
    name: singer.name,
    group: 'singing',
    kind: 'voice',
    samples: sung.samples,
    clean: sing(right, true).samples,
    ...truth(
      right,
      wrong,
      sung.onsets,
      dress.map((each) => (each.vibratoCents ?? 0) > 0),
    ),
  };
}

async function pluckedClip(plucked: (typeof PLUCKED)[number], seed: number): Promise<RetuneClip> {
  const right = melody(plucked.low, plucked.high, 0, seed);
  const wrong = withErrors(right, seed + 2);
  const recorded = await loadRecordedNotes(plucked.source);
  const player = recordedPlayer(plucked.source, recorded);
  const bends = new Array<number>(Math.ceil(DURATION_SECONDS / TRUTH_HOP_SECONDS) + 1).fill(0);
  const play = async (notes: ClipNote[]) => {
    const out = await player.play(notes, bends, DURATION_SECONDS, RETUNE_RATE_HZ);
    const peak = out.reduce((most, value) => Math.max(most, Math.abs(value)), 1e-9);
    return out.map((value) => (value * 0.5) / peak);
  };
  return {
    name: plucked.name,
    group: 'plucked',
    kind: plucked.kind,
    samples: await play(wrong),
    clean: await play(right),
    ...truth(
      right,
      wrong,
      wrong.map((note) => note.startSeconds + attackSeconds(recorded, note.midi)),
      wrong.map(() => false),
    ),
  };
}

/** How long after its beginning the recorded note that plays a pitch is heard. */
function attackSeconds(recorded: RecordedNote[], midi: number): number {
  const source = recorded.reduce((best, each) =>
    Math.abs(each.midi - midi) < Math.abs(best.midi - midi) ? each : best,
  );
  return source.attackSeconds * 2 ** ((source.midi - midi) / 12);
}

function truth(right: ClipNote[], wrong: ClipNote[], onsets: number[], vibrato: boolean[]) {
  return {
    beatSeconds: right[0].beatSeconds,
    firstBeatSeconds: right[0].gridSeconds,
    notes: wrong.map((note, i) => ({
      startSeconds: onsets[i],
      endSeconds: note.endSeconds,
      midi: note.midi,
      toMidi: right[i].midi,
      toStartSeconds: right[i].gridSeconds,
      legato: note.legato,
      vibrato: vibrato[i],
    })),
  };
}
