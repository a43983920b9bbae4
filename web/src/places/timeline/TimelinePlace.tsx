/** The parts of the song as rows on a common time axis. */
import {
  Fragment,
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
  useSyncExternalStore,
  type CSSProperties,
} from 'react';
import { AudioOutlined, UploadOutlined } from '@ant-design/icons';
import { App, Button } from 'antd';
import { useLocation, useNavigate } from 'react-router';
import {
  groupOf,
  groupsOf,
  isAudible,
  partRows,
  planGroupSet,
  planMoveRow,
  recordingsOf,
  rowId,
  type Found,
  type Group,
  type PassagePlace,
} from '@plundra/core/song';
import { scrollTime, secondsOf, zoomTime, type TimeView } from '../../canvas/view.ts';
import { deferred } from '../../song/deferred.tsx';
import { ShelfPanel, type DroppedItem } from '../shelf/ShelfPanel.tsx';
import { DRAGGED_ITEM } from '../shelf/ShelfTable.tsx';
import { useRecord } from '../../song/recording/RecordingContext.ts';
import { useSong } from '../../song/SongContext.tsx';
import { useRecordings } from '../../song/useRecording.ts';
import type { Pictures } from './drawPassages.ts';
import { GroupRow } from './GroupRow.tsx';
import { GroupSheet } from './GroupSheet.tsx';
import { Marquee } from './Marquee.tsx';
import { PartOrder } from './PartOrder.tsx';
import { PartRow } from './PartRow.tsx';
import { Playhead } from './Playhead.tsx';
import { PassageMenu } from './PassageMenu.tsx';
import { PassageSheet } from './PassageSheet.tsx';
import {
  keyOf,
  passageAt,
  recordedSecondsOf,
  snapped,
  type DraggedEdit,
  type Edges,
  type Snap,
} from './passageTools.ts';
import { TakeTable } from './takes/TakeTable.tsx';
import { useTakeCounts } from './takes/useTakeCounts.ts';
import { useTakesOpen } from './takes/useTakesOpen.ts';
import { TakeRow } from './TakeRow.tsx';
import { TempoLane } from './TempoLane.tsx';
import { SectionsBand } from './SectionsBand.tsx';
import { TimelineRuler } from './TimelineRuler.tsx';
import { bringIntoSight, useChosenWhenAdded } from './useChosenWhenAdded.ts';
import { usePassageActions } from './usePassageActions.ts';
import { usePassageDrag } from './usePassageDrag.ts';
import { useFolded } from './useFolded.ts';
import { useRemovePart } from './useRemovePart.tsx';
import { ROW_PIXELS, useRowHeight } from './useRowHeight.ts';
import { useTimelineActions } from './useTimelineActions.ts';
import { useTimelineKeys } from './useTimelineKeys.ts';
import { TimelineKeys } from './TimelineKeys.tsx';
import { TimelineSheet } from './TimelineSheet.tsx';
import { TimelineTools } from './TimelineTools.tsx';

const PassageSheetLater = deferred(PassageSheet);
const TimelineSheetLater = deferred(TimelineSheet);
const TimelineKeysLater = deferred(TimelineKeys);
const NONE_SELECTED: readonly PassagePlace[] = [];
const NO_PASSAGES: ReadonlySet<string> = new Set();

/** A song that grows by less is still seen nearly whole. */
const MUCH_LONGER = 1.05;
const rememberedViews = new Map<string, TimeView>();

export function TimelinePlace() {
  const { song, time, endSeconds, importFiles, engine, apply } = useSong();
  const navigate = useNavigate();
  const { message } = App.useApp();
  const rows = useRef<HTMLDivElement>(null);
  const fileInput = useRef<HTMLInputElement>(null);
  // Who comes from the shelf sees what was put in.
  const shown = (useLocation().state as { select?: PassagePlace[] } | null)?.select ?? NONE_SELECTED;
  const [chosenId, setChosenId] = useState<string | null>(shown[0]?.partId ?? song.parts[0]?.id ?? null);
  const [view, setViewState] = useState<TimeView>(
    rememberedViews.get(song.id) ?? { startSeconds: 0, pixelsPerSecond: 12 },
  );
  const recording = useSyncExternalStore(engine.subscribe, engine.getState).recordingFromSeconds !== null;
  const { opened: takesOpened, justOpened, setOpen: setTakesOpen } = useTakesOpen(song.id);
  const [selected, select] = useState<readonly PassagePlace[]>(shown);
  useChosenWhenAdded(song, setChosenId, select);
  const {
    state: { keptIn },
    setOpen: setRecordSheet,
  } = useRecord();
  const [seenKept, setSeenKept] = useState(keptIn);
  if (keptIn !== seenKept) {
    setSeenKept(keptIn);
    if (keptIn) setChosenId(keptIn.partId);
  }
  useEffect(() => {
    if (!keptIn) return;
    if (keptIn.takes > 1) setTakesOpen(keptIn.partId, true);
    bringIntoSight(keptIn.partId);
  }, [keptIn, setTakesOpen]);
  const chosen = song.parts.find((part) => part.id === chosenId) ?? null;
  const chosenGroup = groupsOf(song).find(({ id }) => id === chosenId) ?? null;

  const remove = useRemovePart(setChosenId);
  const { folded, fold } = useFolded(song.id);
  const [rowHeight, setRowHeight] = useRowHeight(song.id);
  const showTakes = useCallback(
    (partId: string) => {
      setTakesOpen(partId, true);
      setChosenId(partId);
      select(NONE_SELECTED);
      bringIntoSight(partId);
    },
    [setTakesOpen],
  );
  const moveRow = useCallback(
    (movingId: string, overId: string) => {
      const row = partRows(song).find((each) => rowId(each) === movingId);
      const edit = planMoveRow(song, movingId, overId, folded);
      const name = row?.type === 'group' ? row.group.name : row?.part.name;
      if (edit) apply(`Move ${name} in the list`.slice(0, 200), edit);
    },
    [song, folded, apply],
  );
  const setGroup = useCallback(
    (group: Group, label: string, patch: Partial<Group>) =>
      void apply(`${label} ${group.name}`.slice(0, 200), planGroupSet(song, group.id, patch)),
    [song, apply],
  );

  const setView = useCallback(
    (make: (old: TimeView) => TimeView) =>
      setViewState((old) => {
        const next = make(old);
        rememberedViews.set(song.id, next);
        return next;
      }),
    [song.id],
  );

  const shownPartId = shown[0]?.partId;
  useEffect(() => {
    if (shownPartId) bringIntoSight(shownPartId);
  }, [shownPartId]);
  const [shelfOpen, setShelfOpen] = useState(false);
  const [dropped, setDropped] = useState<DroppedItem | null>(null);
  const dropDone = useCallback(() => setDropped(null), []);
  const closeShelf = useCallback(() => setShelfOpen(false), []);
  const [snap, setSnap] = useState<Snap>('auto');
  const [pictures, setPictures] = useState<Pictures>('both');
  const [markAt, setMarkAt] = useState<number | null>(null);
  const [edges, setEdges] = useState<Edges>('trim');
  // A song whose tempo changes shows it.
  const [tempoShown, setTempoShown] = useState(song.tempoMap.length > 1);
  const actions = usePassageActions(selected, select);
  const hashes = useMemo(() => [...new Set(song.parts.flatMap(recordingsOf))], [song.parts]);
  const { known } = useRecordings(hashes);
  const context = useMemo(
    () => ({
      song,
      time,
      snap,
      edges,
      recordedSeconds: (hash: string) => known(hash).recording?.durationSeconds,
      createId: () => crypto.randomUUID(),
    }),
    [song, time, snap, edges, known],
  );
  const dragging = usePassageDrag({
    context,
    view,
    setView,
    endSeconds,
    rows,
    selected,
    select,
    done: useCallback(
      ({ label, edit, made }: DraggedEdit) => {
        if (apply(label, edit) && made) select(made);
      },
      [apply],
    ),
    say: useCallback((problem: string) => void message.warning(problem, 6), [message]),
  });
  const allRows = useMemo(() => partRows(dragging.shownSong), [dragging.shownSong]);
  const shownRows = useMemo(
    () =>
      allRows.filter(
        (row) => row.type === 'group' || row.part.group === undefined || !folded.has(row.part.group),
      ),
    [allRows, folded],
  );
  const takeCounts = useTakeCounts(song, time);
  const selectedOf = useMemo(() => {
    const byPart = new Map<string, Set<string>>();
    for (const { partId, passageId } of selected)
      byPart.set(partId, (byPart.get(partId) ?? new Set()).add(passageId));
    return byPart;
  }, [selected]);
  const open = useCallback(
    (partId: string, passageId?: string) =>
      void navigate(`../notes/${partId}${passageId ? `?passage=${encodeURIComponent(passageId)}` : ''}`),
    [navigate],
  );
  const recordedOf = useCallback(
    ({ part, passage }: Found) => recordedSecondsOf(part, passage, context),
    [context],
  );
  const chooseFiles = useCallback(() => fileInput.current?.click(), []);
  useTimelineActions(actions, { select, setSnap, setEdges, setMarkAt, setRowHeight, onImport: chooseFiles });
  const choose = useCallback((id: string, head?: boolean) => {
    setChosenId(id);
    if (head) select(NONE_SELECTED);
  }, []);
  /** What lies under the pointer: a time of the song, and a passage or none. */
  const pointer = useRef<{ seconds: number | null; place: PassagePlace | null } | null>(null);
  const secondsAt = (clientX: number): number | null => {
    const box = rows.current?.querySelector('.part-picture')?.getBoundingClientRect();
    return box && clientX >= box.left ? secondsOf(view, clientX - box.left) : null;
  };
  const under = (clientX: number, clientY: number) => {
    const row = document.elementFromPoint(clientX, clientY)?.closest<HTMLElement>('[data-part-id]');
    const part = song.parts.find(({ id }) => id === row?.dataset.partId);
    const box = row?.querySelector('.part-picture')?.getBoundingClientRect();
    const hit =
      part && box && clientX >= box.left
        ? passageAt(part, view, time, clientX - box.left, clientY - box.top)
        : undefined;
    return {
      seconds: secondsAt(clientX),
      place: hit ? { partId: part!.id, passageId: hit.passage.id } : null,
    };
  };
  const openMenuAt = (clientX: number, clientY: number): number => {
    const { seconds: at, place } = under(clientX, clientY);
    if (!place) select(NONE_SELECTED);
    else if (!selected.some((each) => keyOf(each) === keyOf(place))) select([place]);
    return at === null
      ? engine.positionSeconds()
      : time.secondsAt(snapped(snap, view, time, time.ticksAt(at)));
  };

  // The first look shows the whole song, and so does what comes in and would lie out of sight; an edit leaves it.
  const fittedSeconds = useRef(0);
  useEffect(() => {
    const width = rows.current?.querySelector('.part-picture')?.clientWidth ?? 0;
    if (rememberedViews.has(song.id) || endSeconds <= fittedSeconds.current * MUCH_LONGER || width <= 0)
      return;
    fittedSeconds.current = endSeconds;
    setViewState({ startSeconds: 0, pixelsPerSecond: width / (endSeconds + 1) });
  }, [song.id, endSeconds]);

  useEffect(() => {
    const element = rows.current;
    if (!element) return;
    const onWheel = (event: WheelEvent) => {
      const zooming = event.ctrlKey || event.metaKey;
      const sideways = event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY);
      if (!zooming && !sideways) return;
      event.preventDefault();
      const x = event.clientX - element.getBoundingClientRect().left - 268;
      setViewState((old) =>
        zooming
          ? zoomTime(old, Math.exp(-event.deltaY * 0.004), Math.max(0, x))
          : scrollTime(old, event.deltaX || event.deltaY, endSeconds),
      );
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [endSeconds]);

  useTimelineKeys({
    actions,
    rows: shownRows,
    chosenId,
    choose,
    moveRow,
    removePart: remove,
    pointer,
    select,
    snap,
    view,
    setView,
  });

  useEffect(() => {
    engine.prepare(song.parts.flatMap((part) => recordingsOf(part)));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once for each song that is opened
  }, [engine, song.id]);

  return (
    <>
      <div className="main">
        <div className="steps">
          <input
            ref={fileInput}
            type="file"
            multiple
            hidden
            aria-label="Recordings, MIDI files or scores"
            accept=".wav,.flac,.mp3,.ogg,.mid,.midi,.kar,.rmi,.musicxml,.xml,.mxl,audio/*"
            onChange={(event) => {
              importFiles([...(event.target.files ?? [])]);
              event.target.value = '';
            }}
          />
          <TimelineTools
            partCount={song.parts.length}
            edges={edges}
            setEdges={setEdges}
            pictures={pictures}
            setPictures={setPictures}
            rowHeight={rowHeight}
            setRowHeight={setRowHeight}
            tempoShown={tempoShown}
            setTempoShown={setTempoShown}
            snap={snap}
            setSnap={setSnap}
            setView={setView}
            shelfOpen={shelfOpen}
            setShelfOpen={setShelfOpen}
            onImport={chooseFiles}
          />
        </div>
        <PassageMenu actions={actions} onOpenAt={openMenuAt}>
          <div
            className={`parts ${rowHeight}`}
            style={{ '--part-pixels': `${ROW_PIXELS[rowHeight]}px` } as CSSProperties}
            ref={rows}
            onPointerMove={(event) => {
              pointer.current = under(event.clientX, event.clientY);
            }}
            onPointerLeave={() => {
              pointer.current = null;
            }}
            onDragOver={(event) => {
              if (event.dataTransfer.types.includes(DRAGGED_ITEM)) event.preventDefault();
            }}
            onDrop={(event) => {
              const itemId = event.dataTransfer.getData(DRAGGED_ITEM);
              if (!itemId) return;
              event.preventDefault();
              const at = secondsAt(event.clientX) ?? engine.positionSeconds();
              const row = (event.target as Element).closest<HTMLElement>('[data-part-id]');
              const atTicks = Math.max(0, Math.round(snapped(snap, view, time, time.ticksAt(at))));
              setDropped({ itemId, atTicks, partId: row?.dataset.partId ?? null });
            }}
          >
            {song.parts.length === 0 && !recording ? (
              <div className="canvas-note">
                <div className="card">
                  <h2 style={{ fontSize: 18 }}>An empty song</h2>
                  <p className="quiet">
                    Drop a recording of a sung or played line anywhere in this window: WAV, FLAC, MP3 or OGG.
                    Plundra reads its melody, and you make a part of it. A MIDI file or a score (MusicXML) can
                    be dropped too. Or sing or play it now.
                  </p>
                  <Button type="primary" icon={<UploadOutlined />} onClick={chooseFiles}>
                    Choose a file
                  </Button>{' '}
                  <Button icon={<AudioOutlined />} onClick={() => setRecordSheet(true)}>
                    Record
                  </Button>
                </div>
              </div>
            ) : (
              <>
                <div className="timeline-top">
                  <SectionsBand view={view} snap={snap} select={select} />
                  <TimelineRuler view={view} snap={snap} markAt={markAt} setMarkAt={setMarkAt} />
                  {tempoShown && <TempoLane view={view} snap={snap} />}
                  <Playhead view={view} />
                </div>
                <div className="rows">
                  <PartOrder rowIds={shownRows.map(rowId)} onMove={moveRow}>
                    {shownRows.map((row) =>
                      row.type === 'group' ? (
                        <GroupRow
                          key={row.group.id}
                          group={row.group}
                          parts={row.parts}
                          folded={folded.has(row.group.id)}
                          chosen={row.group.id === chosenId}
                          audible={row.parts.some((part) => isAudible(song, part))}
                          view={view}
                          time={time}
                          onChoose={choose}
                          onFold={fold}
                          set={setGroup}
                        />
                      ) : (
                        <Fragment key={row.part.id}>
                          <PartRow
                            part={row.part}
                            groupColour={groupOf(song, row.part)?.colour}
                            view={view}
                            time={time}
                            audible={isAudible(song, row.part)}
                            apply={apply}
                            chosen={row.part.id === chosenId}
                            selected={selectedOf.get(row.part.id) ?? NO_PASSAGES}
                            edges={edges}
                            pictures={pictures}
                            onChoose={choose}
                            onOpen={open}
                            onPassage={dragging.onPointerDown}
                            takeCount={takeCounts.get(row.part.id) ?? 0}
                            takesOpen={takesOpened.has(row.part.id)}
                            onTakes={setTakesOpen}
                          />
                          {takesOpened.has(row.part.id) && takeCounts.has(row.part.id) && (
                            <TakeTable partId={row.part.id} view={view} reveal={justOpened === row.part.id} />
                          )}
                        </Fragment>
                      ),
                    )}
                  </PartOrder>
                  <TakeRow view={view} />
                  <Playhead view={view} over />
                </div>
                <Marquee view={view} marquee={dragging.marquee} />
              </>
            )}
          </div>
        </PassageMenu>
        <TimelineKeysLater chosen={chosen} onTakes={showTakes} />
      </div>
      {shelfOpen ? (
        <ShelfPanel dropped={dropped} onDropDone={dropDone} select={select} onClose={closeShelf} />
      ) : actions.found.length > 0 ? (
        <PassageSheetLater actions={actions} recordedSeconds={recordedOf} />
      ) : chosenGroup ? (
        <GroupSheet
          group={chosenGroup}
          parts={song.parts.filter(({ group }) => group === chosenGroup.id)}
          set={setGroup}
          select={select}
        />
      ) : chosen ? (
        <TimelineSheetLater part={chosen} onRemove={() => remove(chosen)} onOpen={() => open(chosen.id)} />
      ) : null}
    </>
  );
}
