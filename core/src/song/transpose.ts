/** A whole song in another key: what moves, what stays, as one edit. */
import type { Cents, Midi, Ticks } from '../signal/index.ts';
import { mod12, transposeChord, transposedKey, type Key } from '../theory/index.ts';
import { chordEntriesOf, transposeChanges } from './changes.ts';
import type { Edit, SimpleEdit } from './editSchema.ts';
import { keyAt, keyChangesOf } from './keys.ts';
import { melodyLineOf, railMidi } from './lineNotes.ts';
import { emptyStretch } from './stretch.ts';
import type { LineNote, Material, OwnChord, Passage, RecordingPart, Song, Stretch, Take } from './schema.ts';

export interface TransposePlan {
  semitones: number;
  edit: Edit;
  /** Parts in the order of the song; a recording with 0 notes moves as a whole. */
  moving: { name: string; notes: number; recording: boolean }[];
  staying: { name: string; reason: string }[];
}

/**
 * Semitones from one key to another by the shorter way, −5…6; keys of different mode share their scale, and so do keys
 * that sound the same (F♯ and G♭ major).
 */
export function semitonesBetween(from: Key, to: Key): number {
  const up = mod12((to.fifths - from.fifths) * 7);
  return up > 6 ? up - 12 : up;
}

/**
 * Moves every note part and every recording: note by note where its line was read, else as a whole. Drums stay, as notes
 * and as recordings. Notes that would leave the range of MIDI stay inside it by an octave.
 */
export function planTranspose(song: Song, key: Key, semitones: number): TransposePlan {
  const keyed = {
    key,
    keyChanges: keyChangesOf(song).map((each) => ({ ...each, key: transposedKey(each.key, semitones) })),
  };
  const keyOf = (ticks: Ticks) => keyAt(keyed, ticks);
  const edits: SimpleEdit[] = [{ type: 'song.set', patch: keyed.keyChanges.length > 0 ? keyed : { key } }];
  const plan: TransposePlan = { semitones, edit: { type: 'batch', edits }, moving: [], staying: [] };
  const chords = transposeChanges(chordEntriesOf(song), semitones, keyOf);
  if (chords.length > 0) edits.push({ type: 'changes.put', remove: [], put: chords });
  if (song.chordKeys?.some(Boolean))
    edits.push({
      type: 'song.set',
      patch: {
        chordKeys: song.chordKeys.map(
          (each) => each && { ...each, chord: transposeChord(each.chord, semitones, key)! },
        ),
      },
    });
  for (const part of song.parts) {
    if (part.kind === 'drums' || (part.kind === 'recording' && part.material === 'drums')) {
      plan.staying.push({ name: part.name, reason: 'drums have no key' });
      continue;
    }
    // What a part was written over moves with its notes; else it would be moved twice.
    if (part.follows)
      edits.push({
        type: 'part.follow',
        partId: part.id,
        follows: {
          ...part.follows,
          writtenOver: transposeChanges(part.follows.writtenOver, semitones, keyOf),
        },
      });
    edits.push(...part.passages.flatMap((passage) => passageKeyEdits(part.id, passage, semitones)));
    let notes = 0;
    let whole = 0;
    for (const passage of part.kind === 'notes' ? part.passages : []) {
      const put = passage.notes.map((note) => ({ ...note, midi: inMidiRange(note.midi + semitones) }));
      if (put.length === 0) continue;
      edits.push({ type: 'passage.notes', partId: part.id, passageId: passage.id, remove: [], put });
      notes += put.length;
    }
    for (const take of part.kind === 'recording' ? part.takes : []) {
      const place = { partId: part.id, takeId: take.id };
      const { line } = take;
      if (line && line.reads !== 'hits' && line.notes.length > 0) {
        const put = line.notes.map((note) => transposedLineNote(note, line.tuningCents, semitones));
        edits.push({ type: 'line.notes', ...place, remove: [], put });
        notes += put.length;
      }
      // The notes of a chordal reading say what sounds; the recording itself moves as a whole.
      if (!melodyLineOf(take) && line?.reads !== 'hits') {
        const { material } = part as RecordingPart;
        edits.push({ type: 'take.stretch', ...place, stretch: transposedStretch(take, material, semitones) });
        whole++;
      }
      // What was read of it says what sounds, whichever way that moves.
      if (take.chords) {
        const chords = transposedOwnChords(take.chords, semitones, key);
        edits.push({ type: 'take.chords', ...place, chords });
      }
    }
    if (notes + whole > 0) plan.moving.push({ name: part.name, notes, recording: part.kind === 'recording' });
    else plan.staying.push({ name: part.name, reason: 'it holds no notes' });
  }
  return plan;
}

/** What it says of its key goes along with what sounds; nothing where it says none. */
export function passageKeyEdits(
  partId: string,
  { id: passageId, key }: Pick<Passage, 'id' | 'key'>,
  semitones: number,
): SimpleEdit[] {
  if (!key || mod12(semitones) === 0) return [];
  return [{ type: 'passage.set', partId, passageId, patch: { key: transposedKey(key, semitones) } }];
}

/** A note that would leave the range of MIDI stays inside it by an octave. */
export function inMidiRange(midi: Midi): Midi {
  if (midi < 0) return midi + 12;
  return midi > 127 ? midi - 12 : midi;
}

/** Its rail moves; what was played stays what it was. */
export function transposedLineNote(note: LineNote, tuningCents: Cents, semitones: number): LineNote {
  return {
    ...note,
    target: { ...note.target, midi: inMidiRange(railMidi(note, tuningCents) + semitones) },
  };
}

/** How a take without a melody sounds after it was moved: by no more than an octave, from where on it goes on below. */
export function transposedStretch(
  { stretch }: Pick<Take, 'stretch'>,
  material: Material,
  semitones: number,
): Stretch {
  const before = stretch ?? emptyStretch(material);
  const shift = before.semitones + semitones;
  return { ...before, semitones: shift - 12 * Math.trunc(shift / 13) };
}

export function transposedOwnChords(
  chords: readonly OwnChord[],
  semitones: number,
  key: Key | null,
): OwnChord[] {
  return chords.map((each) => ({ ...each, chord: transposeChord(each.chord, semitones, key) }));
}
