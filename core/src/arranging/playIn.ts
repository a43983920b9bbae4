/** Playing a part in by hand: which note a key sounds, which notes of a pass belong to it, and how they go into the part. */
import { median, type Midi, type Seconds, type Ticks } from '../signal/index.ts';
import {
  applyEdit,
  chosenPassages,
  gridTicks,
  isShown,
  notesOriginTicks,
  passageEndTicks,
  putNotes,
  snapTicks,
  type Edit,
  type GridValue,
  type Note,
  type NotePart,
  type SimpleEdit,
  type Song,
  type TimeMap,
} from '../song/index.ts';
import { degreeOf, mod12, pitchClassesOf, type Chord, type Key } from '../theory/index.ts';
import type { Press } from './chordKeys.ts';

/** What the keys sound: every note, those of the scale, or those of the chord. */
export type KeySounds = 'all' | 'scale' | 'chord';

/**
 * The note that a key sounds: itself where it is allowed, else the nearest that is; of two as near the lower. Without a key or
 * a chord every note is allowed.
 */
export function soundOfKey(midi: Midi, sounds: KeySounds, key: Key | null, chord: Chord | null): Midi {
  const classes = sounds === 'chord' && chord ? new Set(pitchClassesOf(chord).map(mod12)) : undefined;
  const allowed = (note: Midi): boolean => {
    if (note < 0 || note > 127) return false;
    if (sounds === 'chord') return classes === undefined || classes.has(mod12(note));
    return sounds === 'all' || key === null || degreeOf(note, key) !== undefined;
  };
  for (let away = 0; away < 12; away++)
    for (const note of [midi - away, midi + away]) if (allowed(note)) return note;
  return midi;
}

/** What was played before the first beat by up to an eighth was meant for it. */
const EARLY_TICKS = 480;

/** The presses of a pass that begins at a time: those a little early belong to its start, those before that to nothing. */
export function pressesFrom(presses: readonly Press[], fromSeconds: Seconds, time: TimeMap): Press[] {
  const early = time.secondsAt(time.ticksAt(fromSeconds) + EARLY_TICKS) - fromSeconds;
  return presses
    .filter(({ startSeconds }) => startSeconds >= fromSeconds - early)
    .map((press) =>
      press.startSeconds < fromSeconds
        ? { ...press, startSeconds: fromSeconds, endSeconds: Math.max(press.endSeconds, fromSeconds) }
        : press,
    );
}

/** While a loop goes round: seconds of the song, and the round, 0 the first, in which a key went down and was let go. */
export interface HeldInRounds {
  startSeconds: Seconds;
  startRound: number;
  endSeconds: Seconds;
  endRound: number;
}

/**
 * Where a note belongs that was held while a loop goes round, and to which round. Over the end of the loop it lasts to it; one that
 * was begun just before the end and held longer behind it was meant for the start of the next round. What lies before the loop,
 * because a delay was taken off, was played at the end of the round before.
 */
export function inRound(
  held: HeldInRounds,
  loop: { startSeconds: Seconds; endSeconds: Seconds } | null,
): { startSeconds: Seconds; endSeconds: Seconds; round: number } {
  if (!loop)
    return {
      startSeconds: held.startSeconds,
      endSeconds: Math.max(held.startSeconds, held.endSeconds),
      round: 0,
    };
  const settled = (seconds: Seconds, round: number) =>
    round > 0 && seconds < loop.startSeconds
      ? { seconds: seconds + loop.endSeconds - loop.startSeconds, round: round - 1 }
      : { seconds, round };
  const [down, up] = [settled(held.startSeconds, held.startRound), settled(held.endSeconds, held.endRound)];
  if (up.round === down.round)
    return { startSeconds: down.seconds, endSeconds: Math.max(down.seconds, up.seconds), round: down.round };
  const meantForNext =
    up.round === down.round + 1 && loop.endSeconds - down.seconds < up.seconds - loop.startSeconds;
  return meantForNext
    ? { startSeconds: loop.startSeconds, endSeconds: up.seconds, round: up.round }
    : { startSeconds: down.seconds, endSeconds: loop.endSeconds, round: down.round };
}

/** How a pass was played against the grid. */
export interface HowPlayed {
  notes: number;
  /** Late: above 0. */
  medianSeconds: Seconds;
  /** Half of the notes lie within this of the median. */
  spreadSeconds: Seconds;
}

/** Of a few notes nothing can be said. */
const FEWEST_PLAYED = 4;

/**
 * How early or late presses are against the nearest line of a grid; what is steadily late is the keyboard's delay rather than the
 * player. Undefined for fewer than four.
 */
export function howPlayed(
  presses: readonly Pick<Press, 'startSeconds'>[],
  grid: GridValue,
  time: TimeMap,
): HowPlayed | undefined {
  if (presses.length < FEWEST_PLAYED) return undefined;
  const step = gridTicks(grid);
  const late = presses.map(({ startSeconds }) => {
    const ticks = time.ticksAt(Math.max(0, startSeconds));
    return startSeconds - time.secondsAt(snapTicks(Math.round(ticks), step, time));
  });
  const medianSeconds = median(late);
  return {
    notes: presses.length,
    medianSeconds,
    spreadSeconds: median(late.map((each) => Math.abs(each - medianSeconds))),
  };
}

/**
 * Puts notes that were played into a part: into the passage that sounds where they begin, else into one of their own from the
 * start of the bar, or from where the one before ends. Where they replace, notes of the part that begin in the stretch go.
 * @param notes in ticks of the song, at least one
 * @param replaces the stretch of the song whose notes go; undefined: they are added
 */
export function planPlayIn(
  song: Song,
  part: NotePart,
  notes: readonly Note[],
  replaces: { fromTicks: Ticks; toTicks: Ticks } | undefined,
  time: TimeMap,
  createId: () => string,
): Edit {
  const edits: SimpleEdit[] = [];
  let now = song;
  const add = (...more: SimpleEdit[]) => {
    for (const edit of more) {
      edits.push(edit);
      now = applyEdit(now, edit).song;
    }
  };
  if (replaces)
    for (const passage of chosenPassages(part)) {
      const origin = notesOriginTicks(passage);
      const gone = passage.notes
        .filter((note) => {
          const at = origin + note.startTicks;
          return isShown(passage, note) && at >= replaces.fromTicks && at < replaces.toTicks;
        })
        .map(({ id }) => id);
      if (gone.length > 0)
        add({ type: 'passage.notes', partId: part.id, passageId: passage.id, remove: gone, put: [] });
    }
  const start = Math.min(...notes.map(({ startTicks }) => startTicks));
  const passages = chosenPassages(now.parts.find(({ id }) => id === part.id) as NotePart);
  const into = passages.find(
    (passage) => passage.startTicks <= start && passageEndTicks(passage, time) > start,
  );
  if (into) {
    const origin = notesOriginTicks(into);
    add(
      ...putNotes(
        part.id,
        into,
        notes.map((note) => ({ ...note, startTicks: note.startTicks - origin })),
      ),
    );
  } else {
    const ends = passages.map((passage) => passageEndTicks(passage, time)).filter((end) => end <= start);
    const begin = Math.max(time.barStartTicks(time.barAt(start).bar), ...ends);
    const end = Math.max(...notes.map(({ startTicks, lengthTicks }) => startTicks + lengthTicks));
    add({
      type: 'passage.add',
      partId: part.id,
      passage: {
        type: 'notes',
        id: createId(),
        startTicks: begin,
        lengthTicks: end - begin,
        notes: notes.map((note) => ({ ...note, startTicks: note.startTicks - begin })),
      },
    });
  }
  return { type: 'batch', edits };
}
