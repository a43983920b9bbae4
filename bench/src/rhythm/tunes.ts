/**
 * Published melodies as pieces with a known pulse: rhythms that somebody made, unlike those that are drawn by chance. `training/tunes.py`
 * takes them from collections that are out of copyright.
 *
 * - training: Ryan's Mammoth Collection (1883) and Aird's Airs (1778–1801)
 * - choosing: O'Neill's Music of Ireland (1903)
 * - test: Northumbrian Minstrelsy (1882), fife tunes of the eighteenth and nineteenth century, reels of the Nottingham collection;
 *   neither trained on nor looked at
 */
import { readFileSync } from 'node:fs';
import type { Random } from '@plundra/core/signal';
import { METRES, type Metre } from './patterns.ts';

export interface StoredTune {
  collection: string;
  title: string;
  /** As written, "6/8". */
  metre: string;
  barQuarters: number;
  /** As written, where it is major or minor and not another mode. */
  key: { tonicClass: number; mode: 'major' | 'minor' } | null;
  /** Start, end in quarters from the first bar line, MIDI pitch. */
  notes: [start: number, end: number, midi: number][];
}

export interface TuneNote {
  startBeats: number;
  endBeats: number;
  midi: number;
}

export interface Tune {
  name: string;
  metre: Metre;
  bpm: number;
  /** From the first bar line on; an upbeat lies before it. */
  notes: readonly TuneNote[];
  bars: number;
  /** Pitch class of the tonic of the major key whose notes it takes most of. */
  tonicClass: number;
  /** For each bar semitones from that tonic to the root of the chord that goes best with it. */
  steps: readonly number[];
}

export type TuneSet = 'tuning' | 'choosing' | 'test';

const COLLECTIONS: Record<TuneSet, readonly string[]> = {
  tuning: ['ryansMammoth', 'airdsAirs'],
  choosing: ['oneills1850'],
  test: ['miscFolk', 'nottingham-dataset'],
};
/** Metres that tunes are written in and how they are beaten; what is written as 2/2 may be beaten in four and the other way. */
const WRITTEN: Record<string, readonly { metre: Metre; beatQuarters: number }[]> = {
  '4/4': [
    { metre: METRES.FOUR, beatQuarters: 1 },
    { metre: METRES.TWO, beatQuarters: 2 },
  ],
  '2/4': [
    { metre: METRES.TWO, beatQuarters: 1 },
    { metre: METRES.FOUR, beatQuarters: 0.5 },
  ],
  '3/4': [{ metre: METRES.THREE, beatQuarters: 1 }],
  '5/4': [{ metre: METRES.FIVE, beatQuarters: 1 }],
  '6/8': [{ metre: METRES.SIX_EIGHT, beatQuarters: 1.5 }],
  '9/8': [{ metre: METRES.NINE_EIGHT, beatQuarters: 1.5 }],
  '12/8': [{ metre: METRES.TWELVE_EIGHT, beatQuarters: 1.5 }],
};
WRITTEN['2/2'] = WRITTEN['4/4'];
/** Of a tune's short notes so many are played in a second. */
const SLOWEST_NOTES = 2.6;
const FASTEST_NOTES = 7.5;
/** Tempi that people beat, in simple and in compound metres, and what they like best (Moelants 2002). */
const BEATEN_BPM = { simple: [62, 190], compound: [46, 145] } as const;
const PREFERRED_BPM = 104;

export function loadTunes(path: string, set: TuneSet): StoredTune[] {
  const stored = JSON.parse(readFileSync(path, 'utf8')) as StoredTune[];
  return stored.filter(({ collection, metre }) => COLLECTIONS[set].includes(collection) && WRITTEN[metre]);
}

/** One of them, at a tempo by chance, transposed, and here and there with fewer notes, as songs have. */
export function drawTune(stored: readonly StoredTune[], random: Random): Tune {
  const { title, metre: written, barQuarters, notes } = stored[Math.floor(random() * stored.length)];
  const lengths = notes.map(([start, end]) => end - start).sort((a, b) => a - b);
  const short = Math.max(0.25, lengths[Math.floor(lengths.length / 4)]);
  const notesPerSecond = SLOWEST_NOTES * (FASTEST_NOTES / SLOWEST_NOTES) ** random();
  const quarterBpm = 60 * notesPerSecond * short;
  const { metre, beatQuarters } = WRITTEN[written].reduce((best, each) =>
    farFrom(quarterBpm / each.beatQuarters) < farFrom(quarterBpm / best.beatQuarters) ? each : best,
  );
  const [slowest, fastest] = BEATEN_BPM[metre.compound ? 'compound' : 'simple'];
  const transposed = Math.floor(random() * 12) - 8;
  const inBeats = notes.map(([start, end, midi]) => ({
    startBeats: start / beatQuarters,
    endBeats: end / beatQuarters,
    midi: midi + transposed,
  }));
  const played = random() < 0.35 ? thinned(inBeats, random) : inBeats;
  const bars = Math.round(Math.max(...notes.map(([, end]) => end)) / barQuarters);
  const tonicClass = tonicOf(played);
  return {
    name: title,
    metre,
    bpm: Math.max(slowest, Math.min(fastest, quarterBpm / beatQuarters)),
    notes: played,
    bars,
    tonicClass,
    steps: Array.from({ length: bars }, (_, bar) =>
      stepOf(
        played.filter(
          ({ startBeats }) => startBeats >= bar * metre.beats && startBeats < (bar + 1) * metre.beats,
        ),
        tonicClass,
      ),
    ),
  };
}

const farFrom = (bpm: number) => Math.abs(Math.log2(bpm / PREFERRED_BPM));

/** Some of the notes between beats are left out, and the one before held. */
function thinned(notes: readonly TuneNote[], random: Random): TuneNote[] {
  const share = 0.2 + 0.6 * random();
  const kept: TuneNote[] = [];
  for (const note of notes) {
    const last = kept.at(-1);
    if (last && note.startBeats % 1 !== 0 && random() < share) last.endBeats = note.endBeats;
    else kept.push({ ...note });
  }
  return kept;
}

const MAJOR = [0, 2, 4, 5, 7, 9, 11];
const TRIADS: readonly (readonly [step: number, tones: readonly number[], liked: number])[] = [
  [0, [0, 4, 7], 1.25],
  [5, [5, 9, 0], 1.1],
  [7, [7, 11, 2], 1.15],
  [9, [9, 0, 4], 1],
  [2, [2, 5, 9], 0.95],
  [4, [4, 7, 11], 0.85],
];

function tonicOf(notes: readonly TuneNote[]): number {
  const long = new Array<number>(12).fill(0);
  for (const { startBeats, endBeats, midi } of notes) long[midi % 12] += endBeats - startBeats;
  const inKey = Array.from({ length: 12 }, (_, tonic) =>
    MAJOR.reduce((sum, step) => sum + long[(tonic + step) % 12], 0.4 * long[tonic]),
  );
  return inKey.indexOf(Math.max(...inKey));
}

function stepOf(notes: readonly TuneNote[], tonicClass: number): number {
  const worth = TRIADS.map(
    ([, tones, liked]) =>
      liked *
      notes.reduce(
        (sum, { startBeats, endBeats, midi }) =>
          sum +
          (tones.includes((midi - tonicClass + 120) % 12) ? endBeats - startBeats : 0) *
            (startBeats % 1 === 0 ? 1.3 : 1),
        0.1,
      ),
  );
  return TRIADS[worth.indexOf(Math.max(...worth))][0];
}
