/** What the Timeline offers for finding an action. */
import { useMemo } from 'react';
import type { PassagePlace } from '@plundra/core/song';
import { useActions, type Action } from '../../song/actions.ts';
import { useSong } from '../../song/SongContext.tsx';
import { placesIn, type Edges, type Snap } from './passageTools.ts';
import type { RowHeight } from './useRowHeight.ts';
import type { PassageActions } from './usePassageActions.ts';

interface Tools {
  select(places: readonly PassagePlace[]): void;
  setSnap(snap: Snap): void;
  setEdges(edges: Edges): void;
  /** Opens what can be set at the start of a bar. */
  setMarkAt(ticks: number): void;
  setRowHeight(height: RowHeight): void;
  onImport(): void;
}

export function useTimelineActions(passages: PassageActions, tools: Tools): void {
  const { song, time, engine, endSeconds } = useSong();
  const { select, setSnap, setEdges, setMarkAt, setRowHeight, onImport } = tools;
  const actions = useMemo((): Action[] => {
    const none = passages.found.length === 0;
    const endBar = time.barAt(Math.max(0, Math.round(time.ticksAt(endSeconds)) - 1)).bar + 1;
    const openBar = () => {
      const ticks = Math.round(time.ticksAt(engine.positionSeconds()));
      setMarkAt(time.barStartTicks(time.barAt(ticks).bar));
    };
    return [
      {
        label: 'Cut at the playhead',
        words: 'split razor scissors slice passages',
        keys: 'X',
        disabled: none,
        run: () => passages.cut(engine.positionSeconds(), null),
      },
      {
        label: 'Join the selected passages',
        words: 'glue merge consolidate heal',
        keys: 'J',
        disabled: passages.found.length < 2,
        run: passages.join,
      },
      {
        label: 'Duplicate the selected passages',
        words: 'copy clone paste',
        keys: 'Ctrl D',
        disabled: none,
        run: passages.duplicate,
      },
      {
        label: `Repeat the selected passages until bar ${endBar}, where the song ends`,
        words: 'loop fill cycle',
        disabled: none,
        run: () => passages.repeatUntil(endBar),
      },
      ...[1, -1, 12, -12].map((semitones): Action => ({
        label: `Transpose the selected passages ${Math.abs(semitones) === 12 ? 'an octave' : 'a semitone'} ${semitones > 0 ? 'up' : 'down'}`,
        words: 'pitch shift key',
        disabled: none,
        run: () => passages.transpose(semitones),
      })),
      {
        label: 'Insert or remove bars at the playhead',
        words: 'add delete time intro space cut bars',
        disabled: song.parts.length === 0,
        run: openBar,
      },
      {
        label: 'Change the key or the metre at the bar of the playhead',
        words: 'modulation key signature time signature',
        disabled: song.parts.length === 0,
        run: openBar,
      },
      {
        label: 'Mute or unmute the selected passages',
        words: 'silence disable',
        disabled: none,
        run: passages.mute,
      },
      {
        label: 'Remove the selected passages',
        words: 'delete erase',
        keys: 'Delete',
        disabled: none,
        run: passages.remove,
      },
      {
        label: 'Keep the selected passages on the shelf',
        words: 'save library loop sample store',
        disabled: none,
        run: passages.keep,
      },
      {
        label: 'Open the selected passage in Notes',
        words: 'edit piano roll',
        keys: 'Enter',
        disabled: none,
        run: passages.open,
      },
      {
        label: 'Select all passages',
        words: 'everything regions clips',
        keys: 'Ctrl A',
        run: () => select(placesIn(song.parts)),
      },
      {
        label: 'Select everything from here on',
        words: 'ripple following after',
        keys: 'Shift End',
        disabled: none,
        run: passages.selectFromHere,
      },
      { label: 'Snap to bars', words: 'grid magnet', run: () => setSnap('bar') },
      { label: 'Snap to beats', words: 'grid magnet', run: () => setSnap('beat') },
      {
        label: 'Snap to what can be aimed at',
        words: 'grid magnet adaptive auto',
        run: () => setSnap('auto'),
      },
      { label: 'Snap off', words: 'grid magnet free', run: () => setSnap('off') },
      { label: 'Low rows', words: 'track height small overview', run: () => setRowHeight('low') },
      { label: 'Rows of middle height', words: 'track height normal', run: () => setRowHeight('middle') },
      { label: 'Tall rows', words: 'track height large zoom vertical', run: () => setRowHeight('tall') },
      { label: 'Edges trim', words: 'crop resize', run: () => setEdges('trim') },
      { label: 'Edges repeat', words: 'loop', run: () => setEdges('repeat') },
      {
        label: 'Import files',
        words: 'add file audio load open midi musicxml score recording',
        run: onImport,
      },
    ];
  }, [
    passages,
    song.parts,
    time,
    engine,
    endSeconds,
    select,
    setSnap,
    setEdges,
    setMarkAt,
    setRowHeight,
    onImport,
  ]);
  useActions('timeline', actions);
}
