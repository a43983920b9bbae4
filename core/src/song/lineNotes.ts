/** Reading a line note: where it stands, how far it is off, and what becomes of it as a note. */
import type { Cents, Midi, Seconds, Ticks } from '../signal/index.ts';
import type { Line, LineNote, Note, RecordingPassage } from './schema.ts';
import type { TimeMap } from './timeMap.ts';

/** Notes with less confidence than this are doubtful: of those between 0.8 and this, four in five are right. */
export const DOUBTFUL_BELOW = 0.9;

export function isDoubtful(note: Pick<LineNote, 'confidence'>): boolean {
  return note.confidence < DOUBTFUL_BELOW;
}

/** The line of a passage when it is one melody: only such a line corrects the recording note by note. */
export function melodyLineOf(passage: { line?: Line | null } | null | undefined): Line | null {
  const line = passage?.line;
  return line && (line.reads ?? 'melody') === 'melody' ? line : null;
}

/** Start, end and pitch a line note should have: its target where one is set. */
export function wantedSpan(note: LineNote): { startSeconds: Seconds; endSeconds: Seconds } {
  return {
    startSeconds: note.target?.startSeconds ?? note.startSeconds,
    endSeconds: note.target?.endSeconds ?? note.endSeconds,
  };
}

/**
 * Pitch of the rail: the target, or the nearest note in the recording's own tuning (a guitar tuned 20 cents low
 * has its rails 20 cents low).
 */
export function railMidi(note: LineNote, tuningCents: Cents): Midi {
  return note.target?.midi ?? nearestNote(note.midi, tuningCents) + tuningCents / 100;
}

/** Whole MIDI note nearest to a pitch played in a tuning. */
export function nearestNote(midi: Midi, tuningCents: Cents): number {
  return Math.min(127, Math.max(0, Math.round(midi - tuningCents / 100)));
}

/** How far a note was played from its rail. */
export function centsOff(note: LineNote, tuningCents: Cents): Cents {
  return (note.midi - railMidi(note, tuningCents)) * 100;
}

/**
 * Pitch at which a note will sound: on its rail, plus as much of the played distance to the nearest note as the
 * centre leaves.
 */
export function soundingMidi(note: LineNote, tuningCents: Cents): Midi {
  const rail = railMidi(note, tuningCents);
  const played = note.midi - (nearestNote(note.midi, tuningCents) + tuningCents / 100);
  return rail + (1 - (note.target?.centre ?? 0)) * played;
}

/** Seconds of the recording ↔ ticks of the song, for one placed passage. */
export function createPassageTime(
  passage: Pick<RecordingPassage, 'startTicks' | 'offsetSeconds'>,
  time: TimeMap,
) {
  const origin = time.secondsAt(passage.startTicks) - passage.offsetSeconds;
  return {
    toTicks: (seconds: Seconds): Ticks => time.ticksAt(origin + seconds),
    toSeconds: (ticks: Ticks): Seconds => time.secondsAt(ticks) - origin,
    /** Seconds of the song at which second 0 of the recording lies. */
    originSeconds: origin,
  };
}

/**
 * Notes of a note part from a line: whole notes, ticks from the passage's start. `createId` names them. Notes
 * that begin before the passage are left out; each lasts at least one tick.
 */
export function notesFromLine(
  line: Line,
  passage: RecordingPassage,
  time: TimeMap,
  createId: () => string,
): Note[] {
  const { toTicks } = createPassageTime(passage, time);
  return line.notes.flatMap((note) => {
    const { startSeconds, endSeconds } = wantedSpan(note);
    const startTicks = Math.round(toTicks(startSeconds)) - passage.startTicks;
    const endTicks = Math.round(toTicks(endSeconds)) - passage.startTicks;
    if (startTicks < 0) return [];
    return [
      {
        id: createId(),
        startTicks,
        lengthTicks: Math.max(1, endTicks - startTicks),
        midi: nearestNote(note.target?.midi ?? note.midi, line.tuningCents),
        velocity: note.velocity,
        ...(note.muted && { muted: true as const }),
      },
    ];
  });
}
