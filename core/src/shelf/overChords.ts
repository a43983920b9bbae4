/** What a phrase would play over the chords of the place that it goes to. */
import type { Ticks } from '../signal/index.ts';
import { changeAt, chordEntriesOf, type Note, type Song } from '../song/index.ts';
import { mod12, pitchClassesOf, type ChordOrNone } from '../theory/index.ts';

export interface OverChords {
  /** From the start of the place on; all that sound there, the first from 0. */
  chords: { startTicks: Ticks; endTicks: Ticks; chord: ChordOrNone }[];
  notes: { startTicks: Ticks; endTicks: Ticks; midi: number; inChord: boolean }[];
}

/**
 * @param notes of the phrase, in ticks from its start
 * @param lengthTicks how much of it is looked at
 * @returns undefined where no chord is known there
 */
export function overChords(
  song: Pick<Song, 'changes'>,
  notes: readonly Note[],
  { atTicks, lengthTicks, semitones }: { atTicks: Ticks; lengthTicks: Ticks; semitones: number },
): OverChords | undefined {
  const changes = chordEntriesOf(song);
  const endTicks = atTicks + lengthTicks;
  const first = changeAt(changes, atTicks);
  const later = changes.filter((each) => each.startTicks > atTicks && each.startTicks < endTicks);
  const held = [...(first ? [first] : []), ...later];
  if (!held.some(({ chord }) => chord)) return undefined;
  const chords = held.map(({ startTicks, chord }, i) => ({
    startTicks: Math.max(0, startTicks - atTicks),
    endTicks: (held[i + 1]?.startTicks ?? endTicks) - atTicks,
    chord,
  }));
  return {
    chords,
    notes: notes
      .filter(({ startTicks }) => startTicks < lengthTicks)
      .map((note) => {
        const midi = note.midi + semitones;
        const chord = changeAt(changes, atTicks + note.startTicks)?.chord ?? null;
        return {
          startTicks: note.startTicks,
          endTicks: Math.min(lengthTicks, note.startTicks + note.lengthTicks),
          midi,
          inChord: chord !== null && pitchClassesOf(chord).includes(mod12(midi)),
        };
      }),
  };
}
