/** How well takes are sung in each phrase, from their readings, and which is best by a stated formula. */
import { median, type Cents } from '../signal/index.ts';
import { pullToGrid, type GridPull } from './gridPull.ts';
import { isDoubtful, melodyLineOf, playedCentsOff } from './lineNotes.ts';
import { createPassageTime } from './passageTime.ts';
import { ownsNote, placedNote, shownNotes } from './placed.ts';
import { missedNotes } from './noteTakes.ts';
import type { NotePassage, Passage, RecordingPassage, Take } from './schema.ts';
import type { Phrase, TableTake, TakeTable } from './takeTable.ts';
import type { TimeMap } from './timeMap.ts';

/** What a take is worth in a phrase, from its reading or from its notes. */
export interface TakeFigures {
  /** Median distance from the notes that were meant, with its side: positive is sharp. Notes that were played in have none. */
  cents?: Cents;
  sideCents?: Cents;
  /** Median distance of note starts from the grid, with its side: positive is late. */
  ms: number;
  sideMs: number;
  doubtful: number;
  /** Notes that most other takes play there. Known of notes that were played in. */
  missed: number;
  notes: number;
}

/** Sixteenths, straight: nearer ones would call every slip a hit. */
const JUDGED_BY: GridPull = { grid: '1/16', pull: 1, swing: 0, leaveAloneBeyondSeconds: null };

/** Undefined where the take is not read, or nothing was read there. */
export function takeFigures(
  take: Take,
  passages: readonly RecordingPassage[],
  time: TimeMap,
): TakeFigures | undefined {
  const line = melodyLineOf(take);
  if (!line) return undefined;
  const notes = passages.flatMap((passage) => {
    const { toSong } = createPassageTime(passage, time);
    return line.notes
      .filter((note) => !note.muted && ownsNote(passage, note))
      .map((note) => ({ note, songSeconds: toSong(note.startSeconds) }));
  });
  if (notes.length === 0) return undefined;
  const cents = notes.map(({ note }) => playedCentsOff(note, line.tuningCents));
  return {
    cents: median(cents.map(Math.abs)),
    sideCents: median(cents),
    ...timing(
      notes.map(({ songSeconds }) => songSeconds),
      time,
    ),
    doubtful: notes.filter(({ note }) => isDoubtful(note)).length,
    missed: 0,
    notes: notes.length,
  };
}

/** The same of notes that were played in; undefined where there are none, which is also nothing to compare. */
function noteFigures(
  passages: readonly NotePassage[],
  missed: number,
  time: TimeMap,
): TakeFigures | undefined {
  const starts = passages.flatMap((passage) =>
    shownNotes(passage)
      .filter(({ muted }) => !muted)
      .map((note) => time.secondsAt(placedNote(passage, note).startTicks)),
  );
  if (starts.length === 0) return undefined;
  return { ...timing(starts, time), doubtful: 0, missed, notes: starts.length };
}

/** How far starts are from the grid. */
function timing(songSeconds: readonly number[], time: TimeMap): Pick<TakeFigures, 'ms' | 'sideMs'> {
  const { pulled } = pullToGrid(songSeconds, JUDGED_BY, time);
  const late = pulled.map(({ fromSeconds, toSeconds }) => (fromSeconds - toSeconds) * 1000);
  return { ms: median(late.map(Math.abs)), sideMs: median(late) };
}

/** How much each fault counts when the best take of a phrase is looked for: least is best. */
export interface TakeWeights {
  /** Of a cent. */
  cents: number;
  /** Of a millisecond. */
  ms: number;
  /** Of a doubtful note. */
  doubtful: number;
  /** Of a missed one. */
  missed: number;
}

/** A millisecond is heard about half as much as a cent, and a note one cannot be sure of is worse than either. */
export const FIRST_TAKE_WEIGHTS: TakeWeights = { cents: 1, ms: 0.5, doubtful: 30, missed: 30 };

export const takeScore = (figures: TakeFigures, weights: TakeWeights): number =>
  weights.cents * (figures.cents ?? 0) +
  weights.ms * figures.ms +
  weights.doubtful * figures.doubtful +
  weights.missed * figures.missed;

export interface BestOfPhrase {
  phrase: Phrase;
  /** In order of their scores, the best first; takes without figures are left out. */
  ranking: { take: TableTake; figures: TakeFigures; score: number }[];
}

/** The figures of every take in every phrase; undefined where nothing is read. */
export type FiguresOfTable = ReadonlyMap<string, readonly (TakeFigures | undefined)[]>;

export function figuresOfTable({ takes, phrases }: TakeTable, time: TimeMap): FiguresOfTable {
  const missed = phrases.map(({ cells }) => missedNotes(cells));
  return new Map(
    takes.map(({ id, recorded }) => [
      id,
      phrases.map(({ cells }, i) => {
        const passages: readonly Passage[] = cells.get(id) ?? [];
        return recorded
          ? takeFigures(recorded, passages as RecordingPassage[], time)
          : noteFigures(passages as NotePassage[], missed[i].get(id) ?? 0, time);
      }),
    ]),
  );
}

/** The takes of each phrase by what they are worth there; of equal ones the later, which was sung knowing the others. */
export function rankTakes(
  { takes, phrases }: TakeTable,
  figures: FiguresOfTable,
  weights: TakeWeights,
): BestOfPhrase[] {
  return phrases.map((phrase, i) => ({
    phrase,
    ranking: takes
      .flatMap((take, index) => {
        const found = figures.get(take.id)?.[i];
        return found ? [{ take, figures: found, score: takeScore(found, weights), index }] : [];
      })
      .sort((a, b) => a.score - b.score || b.index - a.index)
      .map(({ take, figures: found, score }) => ({ take, figures: found, score })),
  }));
}
