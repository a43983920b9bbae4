/** Selecting, copying, moving and removing chords of the song, and bars of them. */
import { useCallback, useMemo, useRef, useState } from 'react';
import {
  chordEntriesOf,
  chordSpans,
  isDoubtfulChord,
  moveChords,
  pasteChords,
  putSection,
  sectionsOf,
  songEndTicks,
  type ChordEntry,
  type ChordEntriesChange,
  type ChordSpanOfSong,
  type Section,
} from '@plundra/core/song';
import type { ChordOrNone } from '@plundra/core/theory';
import { useSong } from '../../song/SongContext.tsx';

const NOTHING: ReadonlySet<string> = new Set();
const createId = () => crypto.randomUUID();

interface CopiedChords {
  chords: { offsetTicks: number; chord: ChordEntry['chord'] }[];
  lengthTicks: number;
}

export interface ChordEditing {
  changes: readonly ChordEntry[];
  spans: readonly ChordSpanOfSong[];
  sections: readonly Section[];
  endTicks: number;
  selected: ReadonlySet<string>;
  /** Where the next chord goes; null: nowhere. */
  place: number | null;
  change(label: string, change: ChordEntriesChange): void;
  select(picked: ChordEntry, extend: boolean): void;
  goTo(ticks: number): void;
  /** Nothing is chosen any more. */
  forget(): void;
  selectAll(): void;
  copy(): void;
  paste(): void;
  drop(): void;
  /** Moves the chosen chords by so many ticks. */
  shift(byTicks: number): void;
  moveTo(picked: ChordEntry, toTicks: number): void;
  nameSection(name: string): void;
  nextDoubtful(direction: 1 | -1): void;
}

export function useChordEditing(hear: (chord: ChordOrNone) => void): ChordEditing {
  const { song, time, apply } = useSong();
  const changes = chordEntriesOf(song);
  const sections = sectionsOf(song);
  const endTicks = useMemo(() => songEndTicks(song, time), [song, time]);
  const spans = useMemo(() => chordSpans(changes, endTicks), [changes, endTicks]);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(NOTHING);
  const [place, setPlace] = useState<number | null>(null);
  const copied = useRef<CopiedChords | null>(null);

  // Chords that are gone cannot stay selected.
  const selected = useMemo(() => {
    const known = new Set(changes.map(({ id }) => id));
    return new Set([...chosen].filter((id) => known.has(id)));
  }, [changes, chosen]);
  const change = useCallback(
    (label: string, { remove, put }: ChordEntriesChange) =>
      remove.length + put.length > 0 && apply(label, { type: 'changes.put', remove, put }),
    [apply],
  );
  const select = useCallback(
    (picked: ChordEntry, extend: boolean) => {
      setPlace(picked.startTicks);
      hear(picked.chord);
      if (!extend || selected.size === 0) return setChosen(new Set([picked.id]));
      const indices = [...selected, picked.id].map((id) => changes.findIndex((each) => each.id === id));
      const [from, to] = [Math.min(...indices), Math.max(...indices)];
      setChosen(new Set(changes.slice(from, to + 1).map(({ id }) => id)));
    },
    [changes, hear, selected],
  );
  const goTo = useCallback(
    (ticks: number) => {
      const there = changes.find(({ startTicks }) => startTicks === ticks);
      setPlace(ticks);
      setChosen(there ? new Set([there.id]) : NOTHING);
    },
    [changes],
  );
  const move = (ids: ReadonlySet<string>, byTicks: number) => {
    const moved = moveChords(changes, ids, byTicks);
    change(`Move ${countChords(ids.size)}`, moved);
    const first = moved.put.at(0);
    if (first && place !== null) setPlace(first.startTicks);
  };
  return {
    changes,
    spans,
    sections,
    endTicks,
    selected,
    place,
    change,
    select,
    goTo,
    forget() {
      setChosen(NOTHING);
      setPlace(null);
    },
    selectAll() {
      setChosen(new Set(changes.map(({ id }) => id)));
      setPlace(changes.at(0)?.startTicks ?? null);
    },
    copy() {
      const chosenSpans = spans.filter(({ change: each }) => selected.has(each.id));
      if (chosenSpans.length === 0) return;
      const from = chosenSpans[0].startTicks;
      copied.current = {
        chords: chosenSpans.map(({ startTicks, change: { chord } }) => ({
          offsetTicks: startTicks - from,
          chord,
        })),
        lengthTicks: chosenSpans[chosenSpans.length - 1].endTicks - from,
      };
    },
    paste() {
      if (!copied.current || place === null) return;
      const { chords, lengthTicks } = copied.current;
      change(
        `Paste ${countChords(chords.length)}`,
        pasteChords(changes, chords, lengthTicks, place, createId),
      );
    },
    drop() {
      if (selected.size > 0)
        change(`Remove ${countChords(selected.size)}`, { remove: [...selected], put: [] });
    },
    shift: (byTicks) => move(selected, byTicks),
    moveTo(picked, toTicks) {
      // Dragging one of several takes all of them along.
      const ids = selected.has(picked.id) ? selected : new Set([picked.id]);
      move(ids, toTicks - picked.startTicks);
    },
    nameSection(name) {
      const barStart = time.barStartTicks(time.barAt(place ?? 0).bar);
      const next = putSection(sections, barStart, name, createId);
      if (next.length > 0 || sections.length > 0)
        apply(name.trim() ? `Section ${name.trim()}` : 'No section here', {
          type: 'song.set',
          patch: { sections: next },
        });
    },
    nextDoubtful(direction) {
      const doubtful = changes.filter(isDoubtfulChord);
      if (doubtful.length === 0) return;
      const at = place ?? -1;
      const ordered = direction === 1 ? doubtful : [...doubtful].reverse();
      const next =
        ordered.find(({ startTicks }) => (direction === 1 ? startTicks > at : startTicks < at)) ?? ordered[0];
      setPlace(next.startTicks);
      setChosen(new Set([next.id]));
    },
  };
}

export function countChords(count: number): string {
  return `${count} ${count === 1 ? 'chord' : 'chords'}`;
}
