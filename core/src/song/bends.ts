/**
 * Pitch bend. A note holds its own, as a shape from its start, and takes it along wherever it goes. MIDI bends a whole
 * channel: {@link channelBends} is what a channel plays for the notes on it, {@link bendNotes} the way back.
 */
import { soundingNotesOf } from './placed.ts';
import type { Semitones, Ticks } from '../signal/index.ts';
import { MAX_BENDS_OF_NOTE, type Note, type NoteBend, type NotePart } from './schema.ts';

/** From `startTicks` on all that sounds is bent by so much. */
export interface ChannelBend {
  startTicks: Ticks;
  semitones: Semitones;
}

type BendableNote = Pick<Note, 'startTicks' | 'lengthTicks' | 'bends'>;

/** How far a note is bent at a time after its start. */
export function bendAt(note: BendableNote, afterTicks: Ticks): Semitones {
  return note.bends?.findLast((bend) => bend.afterTicks <= afterTicks)?.semitones ?? 0;
}

/**
 * The bends of a channel that plays these notes; empty where none is bent. Where notes overlap the one that began last
 * decides. A bend holds through the release of its note: the next note sets its own.
 * @param notes in order of their start
 */
export function channelBends(notes: readonly BendableNote[]): ChannelBend[] {
  if (!notes.some(({ bends }) => bends && bends.length > 0)) return [];
  const bends: ChannelBend[] = [];
  const put = (startTicks: Ticks, semitones: Semitones) => {
    const last = bends.at(-1);
    if ((last?.semitones ?? 0) === semitones) return;
    if (last?.startTicks === startTicks) last.semitones = semitones;
    else bends.push({ startTicks, semitones });
  };
  notes.forEach((note, i) => {
    const next = notes[i + 1]?.startTicks ?? Infinity;
    // Of notes that begin together the last, which is the highest, decides.
    if (next === note.startTicks) return;
    put(note.startTicks, bendAt(note, 0));
    for (const { afterTicks, semitones } of note.bends ?? []) {
      const at = note.startTicks + afterTicks;
      if (afterTicks > 0 && afterTicks < note.lengthTicks && at < next) put(at, semitones);
    }
  });
  const last = notes.at(-1);
  if (last) put(last.startTicks + last.lengthTicks, 0);
  return bends;
}

/** The bends of a part's channel, in song ticks. */
export function channelBendsOf(part: NotePart): ChannelBend[] {
  const notes = soundingNotesOf(part);
  return channelBends(notes.sort((a, b) => a.startTicks - b.startTicks));
}

/** Notes with the bends of their channel as their own. Those between notes are left out. */
export function bendNotes<N extends BendableNote>(notes: readonly N[], channel: readonly ChannelBend[]): N[] {
  const sorted = [...channel].sort((a, b) => a.startTicks - b.startTicks);
  return notes.map((note) => {
    const first = firstAfter(sorted, note.startTicks);
    const end = note.startTicks + note.lengthTicks;
    const bends: NoteBend[] = [{ afterTicks: 0, semitones: sorted[first - 1]?.semitones ?? 0 }];
    for (let i = first; i < sorted.length && sorted[i].startTicks < end; i++)
      bends.push({ afterTicks: sorted[i].startTicks - note.startTicks, semitones: sorted[i].semitones });
    return withBends(note, bends);
  });
}

/** The note with a shape of its own; one that says nothing is left out, one of too many points is thinned. */
export function withBends<N extends object>(note: N, bends: readonly NoteBend[]): N & { bends?: NoteBend[] } {
  const { bends: _, ...plain } = note as N & { bends?: NoteBend[] };
  const saying = bends.filter(({ semitones }, i) => semitones !== (bends[i - 1]?.semitones ?? 0));
  if (saying.length === 0) return plain as N;
  const step = Math.ceil(saying.length / MAX_BENDS_OF_NOTE);
  return { ...(plain as N), bends: step > 1 ? saying.filter((_each, i) => i % step === 0) : saying };
}

/** What is left of a shape when its note begins `cutTicks` later. */
export function bendsFrom(note: BendableNote, cutTicks: Ticks): NoteBend[] {
  const later = (note.bends ?? [])
    .filter(({ afterTicks }) => afterTicks > cutTicks)
    .map(({ afterTicks, semitones }) => ({ afterTicks: afterTicks - cutTicks, semitones }));
  return [{ afterTicks: 0, semitones: bendAt(note, cutTicks) }, ...later];
}

function firstAfter(bends: readonly ChannelBend[], ticks: Ticks): number {
  let low = 0;
  let high = bends.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (bends[middle].startTicks <= ticks) low = middle + 1;
    else high = middle;
  }
  return low;
}
