/**
 * What a MIDI file holds and a song cannot, made to fit: taken as far as it goes, and said in sentences. The song's limits
 * are in core/song.
 */
import {
  MAX_BEATS,
  bendNotes,
  MAX_MAP_ENTRIES,
  MAX_NOTES,
  type ChannelBend,
  type KeyChange,
  type MetreEntry,
  type Note,
  type NotePart,
  type NotePassage,
  type TempoEntry,
} from '../song/index.ts';
import { sameKey, type Key } from '../theory/index.ts';
import type { MidiRoom } from './midiIn.ts';

export interface MidiFitting {
  name(text: string, longest: number): string;
  tempo(bpm: number): number;
  /** Undefined where the metre before it stays in force. */
  metre(beats: number, unit: number): Pick<MetreEntry, 'beats' | 'unit'> | undefined;
  tempoMap(entries: TempoEntry[]): TempoEntry[];
  metreMap(entries: MetreEntry[]): MetreEntry[];
  /** Keys from their ticks on, in any order: that of the start, and those it goes to. */
  keys(entries: readonly { startTicks: number; key: Key }[]): { key: Key | null; keyChanges: KeyChange[] };
  /** Passages from tick 0 that hold all notes, at least one. */
  passages(notes: Note[], bends: ChannelBend[], createId: () => string): NotePassage[];
  parts(parts: NotePart[], room: MidiRoom): NotePart[];
  /** Whether something lies beyond the longest a song can be. */
  leaveOutLate(): void;
  /** How many tracks are damaged from some place on. */
  breakOff(tracks: number): void;
  /** The file ends in the middle of a track. */
  endEarly(): void;
  filmFrames(): void;
  /** How many pieces of text belong to no note. */
  leaveOutWords(count: number): void;
  /** A channel plays with several sounds after each other. */
  changeOfSound(): void;
  changed(): string[];
}

const SLOWEST_BPM = 10;
const FASTEST_BPM = 400;
const SMALLEST_UNIT = 32;

export function createMidiFitting(): MidiFitting {
  const changed = new Set<string>();
  const number = (count: number) => count.toLocaleString('en');

  return {
    name(text, longest) {
      if (text.length <= longest) return text;
      changed.add(`Names of more than ${longest} letters were cut.`);
      // Not through the middle of a letter that takes two places.
      return `${text.slice(0, longest - 1).replace(/[\ud800-\udbff]$/, '')}…`;
    },
    tempo(bpm) {
      const held = Math.min(FASTEST_BPM, Math.max(SLOWEST_BPM, bpm));
      if (held !== bpm)
        changed.add(`Tempi beyond ${SLOWEST_BPM} and ${FASTEST_BPM} bpm were set to the nearest of these.`);
      return held;
    },
    metre(beats, unit) {
      let [count, value] = [beats, unit];
      // 4/64 is as long as 2/32.
      while ((value > SMALLEST_UNIT || count > MAX_BEATS) && count % 2 === 0 && value > 1) {
        count /= 2;
        value /= 2;
      }
      const fits =
        count >= 1 &&
        count <= MAX_BEATS &&
        value >= 1 &&
        value <= SMALLEST_UNIT &&
        Number.isInteger(Math.log2(value));
      if (fits) {
        if (count !== beats) changed.add(`The metre ${beats}/${unit} was written as ${count}/${value}.`);
        return { beats: count, unit: value as MetreEntry['unit'] };
      }
      changed.add(`The metre ${beats}/${unit} cannot be counted here; the one before it was kept.`);
      return undefined;
    },
    tempoMap(entries) {
      if (entries.length <= MAX_MAP_ENTRIES) return entries;
      changed.add(
        `Of ${number(entries.length)} tempi neighbours were joined, so that ${number(MAX_MAP_ENTRIES)} are left; what follows them still comes when it did.`,
      );
      return joinedTempi(entries, MAX_MAP_ENTRIES);
    },
    metreMap(entries) {
      if (entries.length <= MAX_MAP_ENTRIES) return entries;
      changed.add(`Only the first ${number(MAX_MAP_ENTRIES)} changes of metre were taken.`);
      return entries.slice(0, MAX_MAP_ENTRIES);
    },
    keys(entries) {
      let key: Key | null = null;
      let last: Key | null = null;
      const keyChanges: KeyChange[] = [];
      for (const entry of entries.toSorted((a, b) => a.startTicks - b.startTicks)) {
        if (sameKey(last, entry.key)) continue;
        last = entry.key;
        if (entry.startTicks === 0) key = entry.key;
        else keyChanges.push(entry);
      }
      if (keyChanges.length > MAX_MAP_ENTRIES)
        changed.add(`Only the first ${number(MAX_MAP_ENTRIES)} changes of key were taken.`);
      return { key, keyChanges: keyChanges.slice(0, MAX_MAP_ENTRIES) };
    },
    passages(notes, bends, createId) {
      const sorted = notes.sort((a, b) => a.startTicks - b.startTicks || a.midi - b.midi);
      if (sorted.length > MAX_NOTES) changed.add('Tracks of very many notes were put into several passages.');
      const bent = bends.length > 0 ? bendNotes(sorted, bends) : sorted;
      const passages: NotePassage[] = [];
      for (let from = 0; from < sorted.length; from += MAX_NOTES) {
        const some = bent.slice(from, from + MAX_NOTES);
        const startTicks = from === 0 ? 0 : some[0].startTicks;
        const held =
          startTicks === 0
            ? some
            : some.map((note) => ({ ...note, startTicks: note.startTicks - startTicks }));
        passages.push({
          type: 'notes',
          id: createId(),
          startTicks,
          lengthTicks: held.reduce((most, note) => Math.max(most, note.startTicks + note.lengthTicks), 0),
          notes: held,
        });
      }
      return passages;
    },
    parts(parts, room) {
      const taken = parts.slice(0, Math.max(0, room.parts));
      if (taken.length < parts.length)
        changed.add(
          `${number(parts.length - taken.length)} of ${number(parts.length)} tracks were left out: a song holds no more parts.`,
        );
      let left = room.notes;
      let lost = 0;
      const fitting = taken.map((part) => ({
        ...part,
        passages: part.passages.flatMap((passage) => {
          const notes = passage.notes.slice(0, left);
          left -= notes.length;
          lost += passage.notes.length - notes.length;
          return notes.length === passage.notes.length
            ? [passage]
            : notes.length > 0
              ? [{ ...passage, notes }]
              : [];
        }),
      }));
      if (lost > 0) changed.add(`${number(lost)} notes were left out: a song holds no more.`);
      return lost > 0 ? fitting.filter(({ passages }) => passages.length > 0) : fitting;
    },
    leaveOutLate: () => void changed.add('What comes after bar 260,000 was left out: no song is that long.'),
    breakOff: (tracks) =>
      void changed.add(
        tracks === 1
          ? 'A track is damaged; it was taken up to the damage.'
          : `${number(tracks)} tracks are damaged; they were taken up to the damage.`,
      ),
    endEarly: () =>
      void changed.add('The file breaks off in the middle of a track; what comes before that was taken.'),
    filmFrames: () =>
      void changed.add(
        'The file counts in film frames; it was placed at 120 bpm, so that everything sounds when it should.',
      ),
    leaveOutWords: (count) =>
      void changed.add(
        `${count === 1 ? '1 syllable stands' : `${number(count)} syllables stand`} where no note begins and ${count === 1 ? 'was' : 'were'} left out.`,
      ),
    changeOfSound: () =>
      void changed.add('A track changes its sound on the way; each of its sounds became a part.'),
    changed: () => [...changed],
  };
}

/** Neighbours joined to the tempo that takes as long as both did. */
function joinedTempi(entries: readonly TempoEntry[], most: number): TempoEntry[] {
  const step = Math.ceil(entries.length / most);
  const joined: TempoEntry[] = [];
  for (let i = 0; i < entries.length; i += step) {
    const group = entries.slice(i, i + step);
    const end = entries.at(i + step)?.startTicks;
    if (end === undefined || i + step >= entries.length) {
      joined.push(...group.slice(0, most - joined.length));
      break;
    }
    let minutes = 0;
    group.forEach(({ startTicks, bpm }, k) => {
      minutes += ((group.at(k + 1)?.startTicks ?? end) - startTicks) / bpm;
    });
    const { startTicks } = group[0];
    joined.push({ startTicks, bpm: (end - startTicks) / minutes });
  }
  return joined;
}
