/**
 * Automatic proposals for cleaning up a line. A proposal changes nothing: it says which notes would go or change,
 * so that it can be counted and shown before it is taken. `amount` (0–100) widens what counts; 50 is the default.
 */
import { clamp, median } from '../signal/index.ts';
import type { LineNote } from '../song/index.ts';
import type { Contour } from './line.ts';
import { joinNotes, shiftOctave, type NoteChange } from './lineEditing.ts';

export const PROPOSAL_KINDS = ['join', 'ghosts', 'octave', 'duplicates'] as const;
export type ProposalKind = (typeof PROPOSAL_KINDS)[number];

export interface Proposal extends NoteChange {
  kind: ProposalKind | 'doubles' | 'faint';
  /** How many places would be mended: groups joined, notes dropped, notes moved. */
  count: number;
  /** Ids of all notes that take part, for the preview. */
  touched: string[];
}

export function propose(
  kind: ProposalKind,
  notes: readonly LineNote[],
  contour: Contour,
  amount: number,
): Proposal {
  const share = clamp(amount, 0, 100) / 100;
  switch (kind) {
    case 'join':
      return proposeJoins(notes, contour, share);
    case 'ghosts':
      return dropping(kind, findGhosts(notes, share));
    case 'octave':
      return proposeOctaves(notes, share);
    case 'duplicates':
      return dropping(kind, findDuplicates(notes, share));
  }
}

/**
 * Adds fainter notes where no note is. `amount` 100 takes all of them, less takes the surest.
 * @param faint notes of the reading that the line does not hold, in order of their start
 */
export function proposeFaint(
  notes: readonly LineNote[],
  faint: readonly LineNote[],
  amount: number,
): Proposal {
  const known = new Set(notes.map(({ id }) => id));
  const free = faint.filter(
    (note) =>
      !known.has(note.id) &&
      !notes.some((other) => other.startSeconds < note.endSeconds && note.startSeconds < other.endSeconds),
  );
  const count = Math.round((clamp(amount, 0, 100) / 100) * free.length);
  const surest = new Set(free.toSorted((a, b) => b.confidence - a.confidence).slice(0, count));
  const put = free.filter((note) => surest.has(note));
  return { kind: 'faint', count, touched: put.map(({ id }) => id), remove: [], put };
}

/** A gap up to this long may lie inside one sung note (a consonant, a break in the voice). */
const LONGEST_GAP_SECONDS = 0.16;
/** Pieces of one note lie within this many semitones of each other. */
const WIDEST_STEP = 0.9;

/**
 * Broken notes: neighbours on one pitch with hardly a gap, of which at least one piece is short or doubtful.
 * Two sure and long notes on one pitch are a repetition and stay apart.
 */
function proposeJoins(notes: readonly LineNote[], contour: Contour, share: number): Proposal {
  const groups: LineNote[][] = [];
  const longestPiece = 0.08 + 0.34 * share;
  const leastSure = 0.35 + 0.5 * share;
  for (const note of notes) {
    const group = groups[groups.length - 1];
    const before = group?.[group.length - 1];
    const close =
      before !== undefined &&
      note.startSeconds - before.endSeconds <= LONGEST_GAP_SECONDS * share &&
      Math.abs(note.midi - before.midi) <= 0.25 + (WIDEST_STEP - 0.25) * share;
    const weak =
      before !== undefined &&
      (note.confidence < leastSure || Math.min(lengthOf(note), lengthOf(before)) < longestPiece) &&
      note.confidence < 0.97;
    if (close && weak) group.push(note);
    else groups.push([note]);
  }
  const broken = groups.filter((group) => group.length > 1);
  const changes = broken.map((group) => joinNotes(group, contour));
  return {
    kind: 'join',
    count: broken.length,
    touched: broken.flatMap((group) => group.map((note) => note.id)),
    remove: changes.flatMap((change) => change.remove),
    put: changes.flatMap((change) => change.put),
  };
}

/**
 * Ghost notes: short, quiet or unsure for this line; those before the first and after the last sure note are
 * judged more strictly, because that is where breath and room are read as notes.
 */
function findGhosts(notes: readonly LineNote[], share: number): LineNote[] {
  if (notes.length === 0) return [];
  const usual = median(notes.map((note) => note.velocity));
  const sure = (note: LineNote) => note.confidence >= 0.75 && lengthOf(note) >= 0.12;
  const firstSure = notes.findIndex(sure);
  const lastSure = notes.length - 1 - [...notes].reverse().findIndex(sure);
  return notes.filter((note, i) => {
    const outside = firstSure < 0 || i < firstSure || i > lastSure;
    const short = clamp((0.16 - lengthOf(note)) / 0.12, 0, 1);
    const quiet = clamp((usual - note.velocity) / Math.max(1, usual * 0.6), 0, 1);
    const unsure = clamp((0.85 - note.confidence) / 0.6, 0, 1);
    // Being quiet makes a suspicion stronger but is none of its own: a long, sure note may be soft.
    const suspect = Math.max(short, unsure);
    const ghostliness =
      0.4 * short + 0.4 * unsure + 0.3 * quiet * suspect + (outside && suspect > 0 ? 0.15 : 0);
    return ghostliness > Math.max(0.12, 1.3 - 1.6 * share);
  });
}

/** Notes on one pitch that start together or lie inside one another; the less sure one goes. */
function findDuplicates(notes: readonly LineNote[], share: number): LineNote[] {
  const together = 0.02 + 0.08 * share;
  const gone = new Set<LineNote>();
  notes.forEach((note, i) => {
    for (let k = i + 1; k < notes.length && notes[k].startSeconds <= note.endSeconds; k++) {
      const other = notes[k];
      const same = Math.abs(other.midi - note.midi) < 0.5;
      const inside = other.endSeconds <= note.endSeconds + 0.02;
      if (same && (other.startSeconds - note.startSeconds <= together || inside)) {
        gone.add(other.confidence > note.confidence ? note : other);
      }
    }
  });
  return notes.filter((note) => gone.has(note));
}

/** Neighbours on each side whose middle pitch says where the line runs. */
const NEIGHBOURS = 3;

/** Notes an octave or two from where the line runs around them, and nearer to it after the move. */
function proposeOctaves(notes: readonly LineNote[], share: number): Proposal {
  const leastLeap = 11 - 3 * share;
  const put: LineNote[] = [];
  notes.forEach((note, i) => {
    const around = notes
      .slice(Math.max(0, i - NEIGHBOURS), i + NEIGHBOURS + 1)
      .filter((other) => other !== note);
    if (around.length < 2) return;
    const middle = median(around.map((other) => other.midi));
    const octaves = Math.round((middle - note.midi) / 12);
    const leap = Math.abs(note.midi - middle);
    if (octaves === 0 || leap < leastLeap) return;
    const nearest = Math.min(...around.map((other) => Math.abs(other.midi - note.midi)));
    // A note that has company in its octave is a leap, not a fault.
    if (nearest < 5 || Math.abs(note.midi + 12 * octaves - middle) > leap - 5) return;
    put.push(shiftOctave(note, octaves));
  });
  const touched = put.map((note) => note.id);
  return { kind: 'octave', count: put.length, touched, remove: [], put };
}

function dropping(kind: ProposalKind, notes: LineNote[]): Proposal {
  const ids = notes.map((note) => note.id);
  return { kind, count: ids.length, touched: ids, remove: ids, put: [] };
}

function lengthOf(note: LineNote): number {
  return note.endSeconds - note.startSeconds;
}
