/** Chords that were read and are looked at before they are taken: what taking them would do, and how the sheet would be. */
import { useCallback, useMemo, useState } from 'react';
import {
  changesFromReading,
  songEndTicks,
  type ChordPull,
  type SimpleEdit,
  type Song,
  type TimeMap,
} from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';
import { withTried } from '../../song/triedSong.ts';
import type { FoundChords } from './chordSources.ts';
import { firstTempo, hasOwnFrame, planReadChords, type PulledChords, type ChosenTempo } from './readTempo.ts';

export interface FoundChordsUse {
  found: FoundChords | null;
  show(found: FoundChords | null): void;
  pull: ChordPull;
  setPull(pull: ChordPull): void;
  /** Tempo and metre that become the song's; null: the song keeps its own. */
  tempo: ChosenTempo | null;
  setTempo(tempo: ChosenTempo | null): void;
  /** What taking them does; null where nothing was read. */
  taking: Taking | null;
}

export interface Taking extends PulledChords {
  edits: SimpleEdit[];
  time: TimeMap;
  endTicks: number;
}

export function useFoundChords(): FoundChordsUse {
  const { song, time } = useSong();
  const [found, setFound] = useState<FoundChords | null>(null);
  const [pull, setPull] = useState<ChordPull>('beat');
  const [tempo, setTempo] = useState<ChosenTempo | null>(null);
  const isOpen = !hasOwnFrame(song);
  const show = useCallback(
    (next: FoundChords | null) => {
      setFound(next);
      // Whoever puts beats right wants them.
      const isWanted = isOpen || next?.asPlayed !== undefined;
      setTempo(next && isWanted ? firstTempo(next.tempo, next.asPlayed) : null);
    },
    [isOpen],
  );
  const taking = useMemo(
    () => found && planTaking(song, time, found, tempo, pull),
    [found, song, time, tempo, pull],
  );
  return { found, show, pull, setPull, tempo, setTempo, taking };
}

function planTaking(
  song: Song,
  time: TimeMap,
  found: FoundChords,
  tempo: ChosenTempo | null,
  pull: ChordPull,
): Taking {
  const createId = () => crypto.randomUUID();
  if (tempo) {
    const { edits, ...taken } = planReadChords(song, time, found, tempo, pull, createId);
    const next = withTried(song, { type: 'batch', edits });
    return { edits, ...taken, endTicks: songEndTicks(next, taken.time) };
  }
  const pulled = changesFromReading(found.chords, found.windows, time, pull, createId);
  const remove = (song.changes ?? []).map(({ id }) => id);
  return {
    edits: [{ type: 'changes.put', remove, put: pulled.changes }],
    ...pulled,
    time,
    endTicks: songEndTicks(song, time),
  };
}
