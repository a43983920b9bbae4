/** Pieces whose beats and bars are known, that the beat network was not trained on: what is fitted beside it is fitted on them. */
import { loadBank } from '@plundra/demo';
import { chordClips, type ChordClip } from '../chords/clips.ts';
import { RHYTHM_BANKS, rhythmClip } from '../rhythm/clips.ts';
import type { Metre } from '../rhythm/patterns.ts';
import { songClips } from '../rhythm/songClips.ts';
import { loadSongs } from '../rhythm/songs.ts';
import { SPARSE_STRUMS } from '../rhythm/strums.ts';
import { loadTunes } from '../rhythm/tunes.ts';

export interface KnownPiece {
  samples: Float32Array;
  beats: number[];
  downbeats: number[];
  metre: Pick<Metre, 'beats' | 'compound'>;
  /** What it is made by: a pattern, a tune, or its name. */
  pattern: string;
}

/** Arrangements up to these rounds, quick ones too; the network was trained on others. */
const ARRANGEMENTS = { slow: 10, quick: 5 };
const PIECES = [...rounds(200, 245), ...rounds(301, 360, 2)];
const OTHER_PIECES = rounds(500, 561);
const WITH_TUNES = [...rounds(200, 209), ...rounds(300, 361, 6)];
/** Chords with few strokes in a bar: their beat is hardly played, so much is to be learned from what they leave out. */
const SPARSE = rounds(7000, 7220);
const KINDS = ['strums', 'picked', 'line', 'band'] as const;
/** Lines without harmony are the hardest, so there are more of them. */
const TUNE_KINDS = ['line', 'strums', 'line', 'picked', 'line', 'band', 'band'] as const;

function rounds(from: number, to: number, step = 1): number[] {
  return Array.from({ length: Math.ceil((to - from) / step) }, (_, i) => from + step * i);
}

/** Stretches of every song that is kept for choosing. */
const OF_SONGS = rounds(0, 12);

/**
 * With harmony or a melody; drums alone are not among them.
 * @param tunesPath what training/tunes.py writes @param songsPath what training/songs.py writes
 */
export async function* knownPieces(tunesPath: string, songsPath: string): AsyncGenerator<KnownPiece> {
  for await (const clip of chordClips('tuning', ARRANGEMENTS.slow)) yield arrangement(clip);
  for await (const clip of chordClips('tuning', ARRANGEMENTS.quick, 'quick')) yield arrangement(clip);
  const banks = await Promise.all(RHYTHM_BANKS.tuning.map((name) => loadBank(name)));
  for (const kind of KINDS) {
    for (const round of PIECES) yield rhythmClip('tuning', banks, kind, round);
    for (const [i, round] of OTHER_PIECES.entries()) {
      yield rhythmClip('practice', banks, kind, round);
      if (i % 3 === 0) yield rhythmClip('apart', banks, kind, round);
    }
  }
  for (const round of SPARSE) yield rhythmClip('practice', banks, 'strums', round, { strums: SPARSE_STRUMS });
  const tunes = loadTunes(tunesPath, 'choosing');
  for (const round of WITH_TUNES)
    for (const [i, kind] of TUNE_KINDS.entries()) {
      const again = TUNE_KINDS.slice(0, i).filter((each) => each === kind).length;
      yield rhythmClip('choosing', banks, kind, round + 40_000 * again, { tunes });
    }
  const songs = loadSongs(songsPath, 'choosing');
  for (const round of OF_SONGS)
    for await (const clip of songClips(songs, 'choosing', round))
      if (clip.heard !== 'drums') yield { ...clip, pattern: clip.song };
}

function arrangement(clip: ChordClip): KnownPiece {
  const [beats, unit] = clip.metre.split('/').map(Number);
  const compound = unit === 8;
  return { ...clip, metre: { beats: compound ? beats / 3 : beats, compound }, pattern: clip.name };
}
