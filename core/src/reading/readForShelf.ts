/** What the shelf says of a recording: whether it goes round, its tempo and metre, and its key. */
import type { Seconds } from '../signal/index.ts';
import type { Key } from '../theory/index.ts';
import type { Activations } from './chordal/index.ts';
import { readChordsOfLoop, type ChordsReading } from './chords/readChords.ts';
import { evenBars } from './chords/beatGrid.ts';
import { keyOfLine } from './chords/keyOfLine.ts';
import { beatSupport, readLoop } from './rhythm/index.ts';

export interface ShelfTempo {
  /** Quarter notes a minute. */
  bpm: number;
  /** Metre: beats of a unit in a bar. */
  beats: number;
  unit: 4 | 8;
  /** Where the first bar begins. */
  firstBeatSeconds: Seconds;
  /** 0–1 */
  confidence: number;
}

export interface ReadForShelf {
  loop: boolean;
  /** Null where nothing has a pulse. */
  tempo: ShelfTempo | null;
  /** Null for drums, and where nothing has a pitch. */
  key: { key: Key; confidence: number } | null;
}

/** Changes whenever the same recording could read differently; part of the key of cached readings. */
export const SHELF_ALGORITHM_VERSION = 9;

const SAMPLE_RATE_HZ = 22_050;
/** A loop is hardly longer. */
const LONGEST_LOOP_SECONDS = 60;
/** Fewer beats are no steady pulse. */
const FEWEST_BEATS = 4;
/** Beats of a recording that is no loop are as even as this, in the mean share of a beat, or it keeps no tempo. */
const UNEVEN_BEATS = 0.12;
/** Less speaks for its beats where nothing is struck, as in a held chord. */
const LEAST_SUPPORT = 0.3;

/**
 * @param samples mono at 22,050 Hz
 * @param activations of the same samples
 * @param drums nothing in it counts as a pitch
 * @param asLoop it is a loop, whatever it sounds like
 */
export function readForShelf(
  samples: Float32Array,
  activations: Activations,
  drums: boolean,
  asLoop = false,
): ReadForShelf {
  const heard = samples.length < LONGEST_LOOP_SECONDS * SAMPLE_RATE_HZ ? readLoop(samples) : undefined;
  const round = heard?.goesRound || asLoop ? heard : undefined;
  const { reading, key: keyOfRound } = readChordsOfLoop(
    samples,
    activations,
    round && {
      beats: {
        seconds: Array.from(
          { length: round.beats },
          (_, i) => (i * samples.length) / SAMPLE_RATE_HZ / round.beats,
        ),
        ...evenBars(round.first % round.beatsPerBar, round.beatsPerBar, round.beats),
      },
    },
  );
  const keyOfSong = () => reading.keys[0] ?? keyOfLine(activations);
  const key = drums ? undefined : round ? keyOfRound : keyOfSong();
  return {
    loop: round !== undefined,
    tempo: round
      ? tempoOf(round.bpm, round.beatsPerBar, round.compound, 0, round.confidence)
      : tempoOfBeats(samples, reading.tempo),
    key: key ? { key: key.key, confidence: key.confidence } : null,
  };
}

/** A beat that falls into three is a dotted quarter. */
function tempoOf(
  bpm: number,
  beatsPerBar: number,
  compound: boolean,
  firstBeatSeconds: Seconds,
  confidence: number,
): ShelfTempo {
  return compound
    ? { bpm: 1.5 * bpm, beats: 3 * beatsPerBar, unit: 8, firstBeatSeconds, confidence }
    : { bpm, beats: beatsPerBar, unit: 4, firstBeatSeconds, confidence };
}

function tempoOfBeats(
  samples: Float32Array,
  { bpm, beats, downbeats, beatsPerBar, compound }: ChordsReading['tempo'],
) {
  if (beats.length < FEWEST_BEATS) return null;
  const period = 60 / bpm;
  const middle = (beats.length - 1) / 2;
  const mean = beats.reduce((sum, each) => sum + each, 0) / beats.length;
  const uneven =
    beats.reduce((sum, each, i) => sum + Math.abs(each - mean - (i - middle) * period), 0) /
    beats.length /
    period;
  if (uneven > UNEVEN_BEATS || beatSupport(samples, beats) < LEAST_SUPPORT) return null;
  return tempoOf(bpm, beatsPerBar, compound, downbeats[0] ?? beats[0], 1 - uneven / UNEVEN_BEATS);
}
