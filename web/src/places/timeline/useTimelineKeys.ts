/** What keys do on the Timeline: first to the selected passages, else to the row that was chosen. */
import { useEffect, type RefObject } from 'react';
import { useNavigate } from 'react-router';
import {
  groupsOf,
  placedRecordings,
  planGroupSet,
  planShift,
  rowId,
  type Part,
  type PassagePlace,
  type Row,
} from '@plundra/core/song';
import { zoomTime, type TimeView } from '../../canvas/view.ts';
import { isTyping } from '../../controls/keyFocus.ts';
import { useSong } from '../../song/SongContext.tsx';
import { placesIn, snapped, snapStep, type Snap } from './passageTools.ts';
import type { PassageActions } from './usePassageActions.ts';

/** Alt and an arrow move a recording by so much. */
const ALT_SECONDS = 0.005;

interface Use {
  actions: PassageActions;
  /** Rows that are shown, and the part or group of them that was chosen. */
  rows: readonly Row[];
  chosenId: string | null;
  choose(id: string, head?: boolean): void;
  moveRow(movingId: string, overId: string): void;
  removePart(part: Part): void;
  /** What lies under the pointer: a time of the song, and a passage or none. */
  pointer: RefObject<{ seconds: number | null; place: PassagePlace | null } | null>;
  select(places: readonly PassagePlace[]): void;
  snap: Snap;
  view: TimeView;
  setView(make: (old: TimeView) => TimeView): void;
}

const NONE_SELECTED: readonly PassagePlace[] = [];

export function useTimelineKeys(use: Use): void {
  const { actions, rows, chosenId, choose, moveRow, removePart, pointer, select, snap, view, setView } = use;
  const { song, time, engine, apply } = useSong();
  const navigate = useNavigate();
  useEffect(() => {
    const chosen = song.parts.find(({ id }) => id === chosenId);
    const group = groupsOf(song).find(({ id }) => id === chosenId);
    /** At the pointer on the grid, else exactly at the playhead. */
    const cutSeconds = (pointed: number | null) =>
      pointed === null
        ? engine.positionSeconds()
        : time.secondsAt(snapped(snap, view, time, time.ticksAt(pointed)));
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event)) return;
      const sideways = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
      const some = actions.found.length > 0;
      const letter = event.key.toLowerCase();
      if (event.ctrlKey || event.metaKey) {
        if (letter === 'd' && some) actions.duplicate();
        else if (letter === 'a') select(placesIn(song.parts));
        else return;
        return event.preventDefault();
      }
      if (letter === 'x')
        actions.cut(cutSeconds(pointer.current?.seconds ?? null), pointer.current?.place ?? null);
      else if (letter === 'j' && some) actions.join();
      else if (event.key === 'Escape' && some) select(NONE_SELECTED);
      else if (event.key === 'End' && event.shiftKey && some) actions.selectFromHere();
      else if ((event.key === 'Delete' || event.key === 'Backspace') && some) actions.remove();
      else if (event.key === 'Enter' && some && event.target === document.body) actions.open();
      else if (sideways !== 0 && some) {
        const at = actions.found[0].passage.startTicks;
        if (event.altKey) actions.moveSeconds(sideways * ALT_SECONDS);
        else actions.move(sideways * (snapStep(snap, view, time, at) || time.beatTicksAt(at)));
      } else return onPartKey(event, sideways);
      event.preventDefault();
    };
    const onPartKey = (event: KeyboardEvent, sideways: number) => {
      if (sideways !== 0 && chosen?.kind === 'recording') {
        const beat = time.beatTicksAt(placedRecordings(chosen).at(0)?.startTicks ?? 0);
        const by = event.altKey ? ALT_SECONDS : time.secondsAt(beat) - time.secondsAt(0);
        const edit = planShift(song, chosen.id, sideways * by);
        if (edit) apply(`Move ${chosen.name}`, edit);
        return event.preventDefault();
      }
      const index = rows.findIndex((row) => rowId(row) === chosenId);
      const upOrDown = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
      if (event.altKey && upOrDown !== 0 && chosenId !== null) {
        const over = rows.at(index + upOrDown);
        if (over && index + upOrDown >= 0) moveRow(chosenId, rowId(over));
        return event.preventDefault();
      }
      if (event.altKey) return;
      const key = event.key.toLowerCase();
      if (upOrDown !== 0 && rows.length > 0)
        choose(rowId(rows[Math.min(rows.length - 1, Math.max(0, index + upOrDown))]), true);
      else if ((key === 'm' || key === 's') && group) {
        const field = key === 'm' ? 'mute' : 'solo';
        const label = { mute: ['Mute', 'Unmute'], solo: ['Solo', 'Unsolo'] }[field][group[field] ? 1 : 0];
        apply(`${label} ${group.name}`, planGroupSet(song, group.id, { [field]: !group[field] }));
      } else if (key === 'enter' && chosen && event.target === document.body)
        void navigate(`../notes/${chosen.id}`);
      else if (key === 'm' && chosen)
        apply(chosen.mute ? `Unmute ${chosen.name}` : `Mute ${chosen.name}`, {
          type: 'part.set',
          partId: chosen.id,
          patch: { mute: !chosen.mute },
        });
      else if (key === 's' && chosen)
        apply(chosen.solo ? `Unsolo ${chosen.name}` : `Solo ${chosen.name}`, {
          type: 'part.set',
          partId: chosen.id,
          patch: { solo: !chosen.solo },
        });
      else if (key === 'delete' && chosen) removePart(chosen);
      else if (key === '+' || key === '=') setView((old) => zoomTime(old, 1.3, 300));
      else if (key === '-') setView((old) => zoomTime(old, 1 / 1.3, 300));
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [
    song,
    time,
    rows,
    chosenId,
    apply,
    navigate,
    removePart,
    actions,
    engine,
    snap,
    view,
    setView,
    choose,
    moveRow,
    pointer,
    select,
  ]);
}
