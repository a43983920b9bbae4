/** What was played by hand, as a step of the song: added to a part, in place of its notes, or as takes beside them. Pure. */
import {
  howPlayed,
  notesOfTake,
  planPlayIn,
  pressesFrom,
  type HowPlayed,
  type Press,
  type TakePull,
} from '@plundra/core/arranging';
import {
  markOf,
  planAddNoteTakes,
  type Edit,
  type Note,
  type NotePart,
  type SimpleEdit,
  type Song,
  type TimeMap,
} from '@plundra/core/song';
import type { LoopRange } from '../../audio/engine.ts';
import { instrumentName, type Sound } from '../../audio/instruments.ts';
import { freeName, notePartOf } from '../newParts.ts';

/** What a pass does to the notes that are there; as takes each round of the loop stands beside them. */
export type PlayInDoes = 'adds' | 'replaces' | 'takes';

/** What is being recorded. Where it goes is settled when it begins, whatever is chosen meanwhile. */
export interface Pass {
  fromSeconds: number;
  /** What goes round; null: it goes on. */
  loop: LoopRange | null;
  presses: (Press & { round: number })[];
  /** Undefined: a new part. */
  intoId: string | undefined;
  sound: Sound;
}

interface KeptPass {
  edit: Edit;
  label: string;
  says: string;
  how: HowPlayed | undefined;
  /** The part that got takes. */
  takesOf?: string;
}

/** The grid that a pass is compared with where it is not pulled to one. */
const COMPARED_WITH = '1/16';

/**
 * Undefined where nothing was played. Throws {@link EditError} where the part has no room.
 * @param stoppedSeconds where the song was stopped
 */
export function keptPass(
  song: Song,
  time: TimeMap,
  { fromSeconds, loop, presses, intoId, sound }: Pass,
  { does, pull }: { does: PlayInDoes; pull: TakePull },
  stoppedSeconds: number,
  createId: () => string,
): KeptPass | undefined {
  const rounds = Array.from({ length: 1 + Math.max(0, ...presses.map(({ round }) => round)) }, (_, round) => {
    const own = presses.filter((press) => press.round === round);
    return round === 0 ? pressesFrom(own, fromSeconds, time) : own;
  });
  const played = rounds.flat();
  if (played.length === 0) return undefined;
  const how = howPlayed(played, pull === 'off' ? COMPARED_WITH : pull, time);
  const notesIn = (some: readonly Press[]) => notesOfTake(some, pull, time, createId);
  const ticks = (seconds: number) => Math.round(time.ticksAt(seconds));
  // Round a loop all of it was played over.
  const startTicks = ticks(loop ? Math.min(loop.startSeconds, fromSeconds) : fromSeconds);
  const wantedEnd = loop?.endSeconds ?? stoppedSeconds;
  // Behind the loop there are notes only where it was switched off meanwhile: they belong to it all the same.
  const beyond = played.filter((press) => press.startSeconds >= wantedEnd);
  const endTicks = Math.max(
    startTicks + 1,
    ticks(Math.max(wantedEnd, ...beyond.map(({ endSeconds }) => endSeconds))),
  );
  const into = song.parts.find((each): each is NotePart => each.id === intoId && each.kind !== 'recording');

  const takes = withoutLoss(rounds.map(notesIn), startTicks, endTicks).filter((notes) => notes.length > 0);
  // A single take of what was empty is no choice.
  if (does === 'takes' && (into || takes.length > 1)) {
    const part = into ?? { ...partOfPlayed(song, sound, takes.flat(), createId), passages: [] };
    const add: SimpleEdit = { type: 'part.add', part, index: song.parts.length };
    const base = into ? song : { ...song, parts: [...song.parts, part] };
    const plan = planAddNoteTakes(base, part.id, takes, { startTicks, endTicks }, createId);
    const edits = plan.type === 'batch' ? plan.edits : [plan];
    const what = takes.length === 1 ? 'a take' : `${takes.length} takes`;
    return {
      edit: { type: 'batch', edits: into ? edits : [add, ...edits] },
      label: `Play ${what} of ${part.name}`,
      says: `${what[0].toUpperCase()}${what.slice(1)} kept; the last is heard.`,
      how,
      takesOf: part.id,
    };
  }
  const notes = notesIn(played);
  const stretch = does === 'replaces' ? { fromTicks: startTicks, toTicks: endTicks } : undefined;
  const what = `${notes.length} ${notes.length === 1 ? 'note' : 'notes'}`;
  const part = into ?? partOfPlayed(song, sound, notes, createId);
  return {
    edit: into
      ? planPlayIn(song, into, notes, stretch, time, createId)
      : { type: 'part.add', part, index: song.parts.length },
    label: `Play ${what} into ${part.name}`,
    says: `${what} kept.`,
    how,
  };
}

/** What the grid pulled to the end of a round begins the next one; of the last it stays just before its end. */
function withoutLoss(rounds: readonly Note[][], startTicks: number, endTicks: number): Note[][] {
  const kept: Note[][] = rounds.map((notes) => notes.filter((note) => note.startTicks < endTicks));
  for (const [i, notes] of rounds.entries())
    for (const note of notes.filter((each) => each.startTicks >= endTicks)) {
      const next = kept.at(i + 1);
      if (next) next.unshift({ ...note, startTicks });
      else kept[i].push({ ...note, startTicks: Math.max(startTicks, endTicks - BEFORE_END_TICKS) });
    }
  return kept;
}
const BEFORE_END_TICKS = 60;

/** A new part with what was played. */
function partOfPlayed(song: Song, sound: Sound, notes: readonly Note[], createId: () => string): NotePart {
  if (sound !== 'drums') return notePartOf(song, 'Played', sound, notes, createId);
  const { program: _, ...part } = notePartOf(song, 'Played', 0, notes, createId);
  const kit = instrumentName(sound);
  return { ...part, kind: 'drums', name: freeName(song, `Played · ${kit}`), mark: markOf(kit) };
}
