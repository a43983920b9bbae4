/**
 * Automatic proposals for cleaning up the notes of a chordal recording. As with a line nothing changes before it is
 * taken; `amount` (0–100) widens what counts.
 */
import { clamp, median } from '../../signal/index.ts';
import type { LineNote } from '../../song/index.ts';
import type { Proposal } from '../proposals.ts';

export const CHORDAL_PROPOSAL_KINDS = ['join', 'ghosts', 'doubles', 'duplicates'] as const;
export type ChordalProposalKind = (typeof CHORDAL_PROPOSAL_KINDS)[number];

export function proposeChordal(
  kind: ChordalProposalKind,
  notes: readonly LineNote[],
  amount: number,
): Proposal {
  const share = clamp(amount, 0, 100) / 100;
  switch (kind) {
    case 'join':
      return proposeJoins(notes, share);
    case 'ghosts':
      return dropping(kind, findGhosts(notes, share));
    case 'doubles':
      return dropping(kind, findDoubles(notes, share));
    case 'duplicates':
      return dropping(kind, findDuplicates(notes, share));
  }
}

/** A gap up to this long may lie inside one note that faded and was found again. */
const LONGEST_GAP_SECONDS = 0.12;

/** One key found twice with hardly a gap, where the second start is doubtful: one note that was broken. */
function proposeJoins(notes: readonly LineNote[], share: number): Proposal {
  const leastSure = 0.3 + 0.6 * share;
  const groups: LineNote[][] = [];
  for (const row of byKey(notes)) {
    let group: LineNote[] = [];
    for (const note of row) {
      const before = group.at(-1);
      const gap = before ? note.startSeconds - before.endSeconds : Infinity;
      if (before && gap <= LONGEST_GAP_SECONDS * 2 * share && note.confidence < leastSure) group.push(note);
      else {
        if (group.length > 1) groups.push(group);
        group = [note];
      }
    }
    if (group.length > 1) groups.push(group);
  }
  return {
    kind: 'join',
    count: groups.length,
    touched: groups.flatMap((group) => group.map(({ id }) => id)),
    remove: groups.flatMap((group) => group.slice(1).map(({ id }) => id)),
    put: groups.map((group) => ({
      ...group[0],
      endSeconds: Math.max(...group.map((note) => note.endSeconds)),
      velocity: Math.max(...group.map((note) => note.velocity)),
      confidence: 1,
    })),
  };
}

/** Below this nothing speaks against a note, whatever the amount. */
const MIN_SUSPICION = 0.12;

/** Short, soft or unsure notes, beside what is usual here. */
function findGhosts(notes: readonly LineNote[], share: number): LineNote[] {
  if (notes.length === 0) return [];
  const usual = median(notes.map((note) => note.velocity));
  return notes.filter((note) => {
    const short = clamp((0.16 - lengthOf(note)) / 0.12, 0, 1);
    const quiet = clamp((usual - note.velocity) / Math.max(1, usual * 0.5), 0, 1);
    const unsure = clamp((0.85 - note.confidence) / 0.55, 0, 1);
    return (
      0.3 * short + 0.6 * unsure + 0.3 * quiet * Math.max(short, unsure) >
      Math.max(MIN_SUSPICION, 1.2 - 1.6 * share)
    );
  });
}

/** Semitones from a note to those of its harmonics that are taken for notes: octave, twelfth, two octaves. */
const HARMONIC_STEPS = [12, 19, 24];

/**
 * Harmonics taken for notes: a doubtful note an octave, a twelfth or two octaves above one that starts with it (or
 * sounds already) and is no softer.
 */
function findDoubles(notes: readonly LineNote[], share: number): LineNote[] {
  const leastSure = 0.3 + 0.65 * share;
  const margin = -12 + 24 * share;
  return notes.filter(
    (note) =>
      note.confidence < leastSure &&
      notes.some(
        (lower) =>
          HARMONIC_STEPS.includes(Math.round(note.midi - lower.midi)) &&
          lower.startSeconds <= note.startSeconds + 0.04 &&
          lower.endSeconds >= note.startSeconds + 0.04 &&
          lower.confidence > note.confidence &&
          lower.velocity + margin >= note.velocity,
      ),
  );
}

/** One key twice at the same time, as two readings laid over each other leave it; the less sure one goes. */
function findDuplicates(notes: readonly LineNote[], share: number): LineNote[] {
  const together = 0.01 + 0.06 * share;
  const gone = new Set<LineNote>();
  for (const row of byKey(notes)) {
    for (let i = 1; i < row.length; i++) {
      const [before, note] = [row[i - 1], row[i]];
      const inside = note.startSeconds < before.endSeconds && note.endSeconds <= before.endSeconds + 0.02;
      if (note.startSeconds - before.startSeconds <= together || inside)
        gone.add(note.confidence > before.confidence ? before : note);
    }
  }
  return notes.filter((note) => gone.has(note));
}

/** Notes of each key in order of their start. */
function byKey(notes: readonly LineNote[]): LineNote[][] {
  const rows = new Map<number, LineNote[]>();
  for (const note of notes) {
    const key = Math.round(note.midi);
    const row = rows.get(key);
    if (row) row.push(note);
    else rows.set(key, [note]);
  }
  return [...rows.values()];
}

function dropping(kind: Proposal['kind'], notes: LineNote[]): Proposal {
  const ids = notes.map((note) => note.id);
  return { kind, count: ids.length, touched: ids, remove: ids, put: [] };
}

function lengthOf(note: LineNote): number {
  return note.endSeconds - note.startSeconds;
}
