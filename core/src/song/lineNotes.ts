/** Reading a line note: where it stands, how far it is off, and what becomes of it as a note. */
import type { Cents, Midi, Seconds } from '../signal/index.ts';
import type { Line, LineNote } from './schema.ts';

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

/** Whether what was read of a passage are hits: the pitches of its notes are keys of a drum kit. */
export function readsHits(passage: { line?: Line | null }): boolean {
  return passage.line?.reads === 'hits';
}

/** Start, end and pitch a line note should have: its target where one is set. */
export function wantedSpan(note: LineNote): { startSeconds: Seconds; endSeconds: Seconds } {
  return {
    startSeconds: note.target?.startSeconds ?? note.startSeconds,
    endSeconds: note.target?.endSeconds ?? note.endSeconds,
  };
}

/**
 * Pitch of the note that was played: as it was named, or the nearest in the recording's own tuning (a guitar tuned
 * 20 cents low plays notes that lie 20 cents low).
 */
export function namedMidi(note: Pick<LineNote, 'midi' | 'namedMidi'>, tuningCents: Cents): Midi {
  return note.namedMidi ?? nearestNote(note.midi, tuningCents) + tuningCents / 100;
}

/** Pitch of the rail: what the note should be, or else the note it was. */
export function railMidi(note: LineNote, tuningCents: Cents): Midi {
  return note.target?.midi ?? namedMidi(note, tuningCents);
}

/** Whole MIDI note nearest to a pitch played in a tuning. */
export function nearestNote(midi: Midi, tuningCents: Cents): number {
  return Math.min(127, Math.max(0, Math.round(midi - tuningCents / 100)));
}

/** How far a note was played from the note it was. */
export function playedCentsOff(note: LineNote, tuningCents: Cents): Cents {
  return (note.midi - namedMidi(note, tuningCents)) * 100;
}

/** How far a note will sound from its rail: what its pull leaves. */
export function soundingCentsOff(note: LineNote, tuningCents: Cents): Cents {
  return (1 - (note.target?.centre ?? 0)) * playedCentsOff(note, tuningCents);
}

/** Pitch at which a note will sound. */
export function soundingMidi(note: LineNote, tuningCents: Cents): Midi {
  return railMidi(note, tuningCents) + soundingCentsOff(note, tuningCents) / 100;
}

/** The note under another name: what it was called changes, not how it sounds. What it should be goes along. */
export function renamed(note: LineNote, midi: Midi, tuningCents: Cents): LineNote {
  const by = midi - railMidi(note, tuningCents);
  const named = namedMidi(note, tuningCents) + by;
  const isNearest = Math.abs(named - nearestNote(note.midi, tuningCents) - tuningCents / 100) < 1e-6;
  const { namedMidi: _, ...plain } = note;
  return {
    ...plain,
    ...(!isNearest && { namedMidi: Math.min(127, Math.max(0, named)) }),
    ...(note.target?.midi !== undefined && { target: { ...note.target, midi } }),
  };
}
