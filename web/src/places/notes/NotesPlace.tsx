/** The Notes place: one part's notes on the canvas, the steps of the work above, numbers and actions beside. */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Alert, Progress, Result } from 'antd';
import { Link, Navigate, useParams, useSearchParams } from 'react-router';
import { groupStrokes, type Stroke } from '@plundra/core/reading';
import {
  chosenPassages,
  GRID_VALUES,
  melodyLineOf,
  placedRecordings,
  planNotePull,
  type Grid,
  type NotePassage,
  type Part,
  type PlacedRecording,
} from '@plundra/core/song';
import { Button, Select } from '../../controls/index.tsx';
import { Overflow } from '../../controls/Overflow.tsx';
import { usePlacedChords } from '../../canvas/chordRow.ts';
import { deferred } from '../../song/deferred.tsx';
import { useSong } from '../../song/SongContext.tsx';
import { waitingFor } from '../../song/waitingFor.ts';
import { partColours } from '../../theme/tokens.ts';
import { notesOfLine, type CanvasNote } from './canvasNote.ts';
import { inEach, keyOfNotes, meantIn, planPull, pullNotes, tuneNotes } from './correcting.ts';
import type { Tool } from './gesture.ts';
import { LineCanvas, type LineCanvasHandle } from './LineCanvas.tsx';
import { editingOfPart } from './editingOfPart.ts';
import type { LineScene } from './lineScene.ts';
import { LineSheet } from './LineSheet.tsx';
import { pullChange } from './OnsetSheet.tsx';
import { countNotes, type LabelledEdit } from './noteEditing.ts';
import { keySpansOf } from '../../song/keySpans.ts';
import { NoteKeys } from '../../song/keys/NoteKeys.tsx';
import { drumRowsOf, inDrumRows, keyOfRow } from './drumRows.ts';
import { soundingPitches } from './soundingPitches.ts';
import { StepStrip, type StepName } from './StepStrip.tsx';
import { gridName } from './GridPullFields.tsx';
import { useDoubtful } from './useDoubtful.ts';
import { useLineKeys } from './useLineKeys.ts';
import { useProposals } from './useProposals.ts';
import { firstRequest, readLabel } from './ReadSheet.tsx';
import { useContours, useSceneRecordings } from './usePassageSources.ts';
import { useNotesActions } from './useNotesActions.ts';
import { useReading } from './useReading.ts';
import { countMeant, meantOf, putEach, useNoteTiming } from './useNoteTiming.ts';
import { useTiming } from './useTiming.ts';

const StepStripLater = deferred(StepStrip);
const NoteKeysLater = deferred(NoteKeys);
const NOTHING: ReadonlySet<string> = new Set();
const NO_NOTES: readonly CanvasNote[] = [];
const NO_STROKES: readonly Stroke[] = [];

export function NotesPlace() {
  const { song } = useSong();
  const { partId } = useParams();
  if (song.parts.length === 0) {
    return (
      <Result
        style={{ margin: 'auto' }}
        status="info"
        title="Nothing to show yet"
        subTitle="This song has no parts. Import a recording on the Timeline, then read its melody here."
        extra={
          <Link to="../timeline">
            <Button type="primary">To the Timeline</Button>
          </Link>
        }
      />
    );
  }
  const part = song.parts.find((each) => each.id === partId);
  // The part may have been removed, here or in another window.
  if (!part) return <Navigate to={`../notes/${song.parts[0].id}`} replace />;
  return <OpenPart key={part.id} partId={part.id} />;
}

const byStart = (a: NotePassage, b: NotePassage) => a.startTicks - b.startTicks;
const NO_PASSAGES: readonly NotePassage[] = [];
const NO_RECORDINGS: readonly PlacedRecording[] = [];
const shownOf = (part: Part) => (part.kind === 'recording' ? placedRecordings(part) : NO_RECORDINGS);

function OpenPart({ partId }: { partId: string }) {
  const songValue = useSong();
  const [search] = useSearchParams();
  const { song, time, apply, engine, listen } = songValue;
  const part = song.parts.find((each) => each.id === partId)!;
  const passages: readonly (PlacedRecording | NotePassage)[] = useMemo(
    () => (part.kind === 'recording' ? placedRecordings(part) : chosenPassages(part).toSorted(byStart)),
    [part],
  );
  // Reading, and what is asked about one recording, is done with the passage one works on.
  const [passageId, setPassageId] = useState<string | null>(search.get('passage'));
  const passage = passages.find(({ id }) => id === passageId) ?? passages.at(0);
  const recorded = passage?.type === 'recording' ? passage : null;
  const openAtSeconds = search.get('passage') && passage ? time.secondsAt(passage.startTicks) : null;
  // A note part that was made from a recording shows it underneath, so that gaps can be compared with gaps.
  const source =
    part.kind === 'recording' ? undefined : song.parts.find((each) => each.id === part.madeFromPartId);
  const beneath = part.kind === 'recording' ? part : source?.kind === 'recording' ? source : null;
  const shownRecordings = beneath ? placedRecordings(beneath) : NO_RECORDINGS;
  const shown = recorded ?? shownRecordings.at(0) ?? null;
  const melodies = useMemo(
    () =>
      part.kind === 'recording' ? placedRecordings(part).filter((each) => melodyLineOf(each)) : NO_RECORDINGS,
    [part],
  );
  const canvas = useRef<LineCanvasHandle>(null);
  const [selected, setSelected] = useState<ReadonlySet<string>>(NOTHING);
  const [tool, setTool] = useState<Tool>('select');
  const [grid, setGrid] = useState<Grid>('adaptive');
  const [step, setStep] = useState<StepName>(recorded && !recorded.line ? 'read' : 'clean');
  const [sheetOpen, setSheetOpen] = useState(true);

  const reading = useReading(source?.id ?? partId, shown);
  const contours = useContours(shownRecordings);
  const sceneRecordings = useSceneRecordings(shownRecordings, contours, time);
  const contour = reading.contour;

  const editing = useMemo(
    () => editingOfPart(part, passages, passage, contours, time, step),
    [part, passages, passage, contours, time, step],
  );

  // A line that just arrived moves the work on to cleaning up.
  const hasLine = recorded !== null && recorded.line !== null;
  const hadLine = useRef(hasLine);
  useEffect(() => {
    if (hasLine && !hadLine.current) setStep('clean');
    hadLine.current = hasLine;
  }, [hasLine]);

  // Notes that are gone cannot stay selected.
  const shownSelection = useMemo(() => {
    const still = editing?.notes.filter((note) => selected.has(note.id)) ?? [];
    return still.length === selected.size ? selected : new Set(still.map((note) => note.id));
  }, [selected, editing]);

  const timing = useTiming(melodies, recorded, shownSelection, step === 'time');
  const notePassages = part.kind === 'recording' ? NO_PASSAGES : chosenPassages(part);
  const noteTiming = useNoteTiming(notePassages, shownSelection, step === 'time');

  /** A note that was put somewhere and may lie out of sight. */
  const toReveal = useRef<string>(undefined);
  const change = useCallback(
    (made: LabelledEdit | undefined) => {
      if (!made) return;
      if (!apply(made.label, made.edit) || !made.select) return;
      setSelected(new Set(made.select));
      if (made.reveal) toReveal.current = made.select.at(0);
    },
    [apply],
  );

  const drums = part.kind === 'drums' || recorded?.line?.reads === 'hits';
  const chords = usePlacedChords(song, time);
  const sounding = useMemo(() => soundingPitches(song, part), [song, part]);
  const drumRows = useMemo(
    () => (drums && editing && !editing.unpitched ? drumRowsOf(editing.notes) : null),
    [drums, editing],
  );
  /** What the canvas shows and what is moved on it: drums lie in rows. */
  const shownEditing = useMemo(
    () => (editing && drumRows ? inDrumRows(editing, drumRows) : editing),
    [editing, drumRows],
  );
  useEffect(() => {
    const id = toReveal.current;
    const note = id === undefined ? undefined : shownEditing?.notes.find((each) => each.id === id);
    if (!note) return;
    toReveal.current = undefined;
    canvas.current?.reveal(note);
  }, [shownEditing]);
  const proposals = useProposals(
    partId,
    recorded,
    contour,
    reading.result,
    shownEditing?.notes ?? NO_NOTES,
    (note) => canvas.current?.reveal(note),
  );
  const strokes = useMemo(
    () =>
      recorded?.line?.reads === 'notes' && editing && !editing.unpitched
        ? groupStrokes(editing.notes)
        : NO_STROKES,
    [recorded, editing],
  );
  const backdrop = useMemo(
    () => (recorded?.line && editing?.unpitched ? notesOfLine(recorded, time) : []),
    [recorded, editing?.unpitched, time],
  );
  const { key, keyChanges } = song;
  const keys = useMemo(() => keySpansOf({ key, keyChanges }, time), [key, keyChanges, time]);
  const scene: Omit<LineScene, 'view' | 'gridStepTicks' | 'notes'> = useMemo(
    () => ({
      time,
      keys,
      selected: shownSelection,
      ...proposals.shown,
      chords,
      sounding,
      drumRows,
      strokes,
      recordings: null,
      unpitched: editing?.unpitched ?? false,
      backdrop,
      partColour: partColours[part.colour],
      before: listen.before,
      ...timing.shown,
      ...(part.kind !== 'recording' && { wouldGo: noteTiming.wouldGo }),
    }),
    [
      time,
      keys,
      shownSelection,
      proposals.shown,
      editing?.unpitched,
      backdrop,
      part.colour,
      listen.before,
      timing.shown,
      part.kind,
      noteTiming.wouldGo,
      strokes,
      chords,
      sounding,
      drumRows,
    ],
  );
  const fullScene = useMemo(() => ({ ...scene, recordings: sceneRecordings }), [scene, sceneRecordings]);

  const showDoubtful = useCallback(
    (ids: readonly string[], first: CanvasNote) => {
      setSelected(new Set(ids));
      canvas.current?.reveal(first);
      // Space then plays it, with a beat to hear it coming.
      const startTicks = time.ticksAt(first.startSeconds);
      engine.seek(time.secondsAt(Math.max(0, startTicks - time.beatTicksAt(startTicks))));
    },
    [engine, time],
  );
  const doubtful = useDoubtful(shownEditing, shownSelection, change, showDoubtful);

  const hearProgram = part.kind === 'notes' ? part.program : drums ? ('drums' as const) : listen.lineProgram;
  const hear = useCallback(
    (midi: number, velocity: number) =>
      void engine.live.preview(drumRows ? keyOfRow(drumRows, midi) : midi, velocity, hearProgram),
    [engine, hearProgram, drumRows],
  );

  const tuneByKey = () => {
    change(
      inEach(meantIn(melodies, shownSelection), ({ passage: of, notes }) =>
        tuneNotes(partId, of, notes, { centre: 1 }, keyOfNotes(song, of, time)),
      ),
    );
  };
  const pullByKey = () => {
    if (part.kind !== 'recording') {
      const { put } = planNotePull(meantOf(chosenPassages(part), shownSelection), noteTiming.settings, time);
      return change(putEach(partId, `Pull ${countNotes(countMeant(put))} to the grid`, put));
    }
    if (!recorded) return;
    if (melodies.length === 0) {
      const { plan } = timing;
      if (plan?.stretch && plan.report.moving > 0)
        change(pullChange(partId, recorded, plan.report.moving, plan.stretch));
      return;
    }
    const meant = meantIn(melodies, shownSelection);
    const plan = planPull(meant, timing.settings, time);
    if (plan.report.moving > 0) change(pullNotes(partId, meant, plan, time));
  };
  useNotesActions({
    recording: part.kind === 'recording',
    editing: shownEditing,
    selected: shownSelection,
    setSelected,
    change,
    setStep,
    setTool,
    tune: tuneByKey,
    pull: pullByKey,
    doubtful,
  });
  const goToPassage = (id: string) => {
    setPassageId(id);
    const next = passages.find((each) => each.id === id);
    if (next) canvas.current?.showTime(time.secondsAt(next.startTicks));
  };
  useLineKeys({
    tune: tuneByKey,
    pull: pullByKey,
    part,
    editing,
    moving: shownEditing,
    selected: shownSelection,
    setSelected,
    change,
    canvas,
    tool,
    setTool,
    doubtful,
    hear,
  });

  const noteKeys = part.kind !== 'recording' && (
    <NoteKeysLater key={part.id} part={part} program={part.kind === 'drums' ? 'drums' : part.program} />
  );
  if (!passage)
    return (
      <div className="main">
        <Result
          style={{ margin: 'auto' }}
          status="info"
          title="This part is empty"
          subTitle={
            part.kind === 'recording'
              ? 'It holds no passage. Remove it on the Timeline, or undo what emptied it.'
              : 'It holds no passage. Play something in, remove it on the Timeline, or undo what emptied it.'
          }
        />
        {noteKeys}
      </div>
    );
  return (
    <>
      <div className="main">
        <StepStripLater
          part={part}
          passages={shownOf(part)}
          reading={reading}
          step={step}
          sheetOpen={sheetOpen}
          onStep={(next) => {
            setStep(next);
            // A selection that was made to be corrected stays.
            if (next !== 'tune' && next !== 'time') setSelected(NOTHING);
            proposals.show(null);
            setSheetOpen(true);
          }}
          onSheet={() => setSheetOpen((open) => !open)}
        >
          <Overflow label={passages.length > 1 ? 'Passage and grid' : 'Grid'}>
            {passages.length > 1 && (
              <Select
                aria-label="Passage"
                size="small"
                value={passage.id}
                style={{ width: 124 }}
                onChange={goToPassage}
                options={passages.map((each, i) => ({
                  value: each.id,
                  label: `${each.name ?? `${i + 1} of ${passages.length}`} · bar ${time.barAt(each.startTicks).bar}`,
                }))}
              />
            )}
            <Select
              aria-label="Grid"
              size="small"
              value={grid}
              style={{ width: 108 }}
              onChange={setGrid}
              options={[
                { value: 'adaptive', label: 'Grid: auto' },
                { value: 'off', label: 'Grid: off' },
                ...GRID_VALUES.map((value) => ({ value, label: gridName(value) })),
              ]}
            />
          </Overflow>
        </StepStripLater>
        <LineCanvas
          ref={canvas}
          scene={fullScene}
          editing={shownEditing}
          grid={grid}
          tool={tool}
          viewKey={partId}
          openAtSeconds={openAtSeconds}
          onSelect={(ids) => {
            setSelected(ids);
            if (ids.size > 0) setSheetOpen(true);
            const first = ids.values().next().value;
            const owner = shownEditing?.notes.find(({ id }) => id === first)?.passageId;
            if (owner !== undefined) setPassageId(owner);
          }}
          onChange={change}
          onHear={hear}
        />
        {noteKeys}
        {recorded && !editing && (melodyLineOf(recorded) || (step !== 'tune' && step !== 'time')) && (
          <div className="canvas-note" style={{ top: 90, pointerEvents: 'none' }}>
            <div className="card" style={{ pointerEvents: 'auto' }}>
              {reading.status ? (
                <>
                  <h2 style={{ fontSize: 17 }}>Reading {part.name}</h2>
                  <Progress
                    percent={Math.round(reading.status.progress * 100)}
                    status="active"
                    style={{ width: 320 }}
                  />
                  <Button style={{ marginLeft: 12 }} onClick={reading.cancel}>
                    Stop reading
                  </Button>
                  {waitingFor(reading.status) && <p className="quiet">{waitingFor(reading.status)}</p>}
                </>
              ) : reading.error ? (
                <Alert
                  type="warning"
                  title="The reading behind this line is not there any more"
                  description="Your notes are kept in the song. Read the melody again to see its contour; you can undo that to come back to your notes."
                  action={
                    <Button onClick={() => reading.read({ type: 'melody', kind: 'auto' })}>Read again</Button>
                  }
                />
              ) : recorded.line ? (
                <span className="quiet">Fetching the contour …</span>
              ) : (
                <>
                  <h2 style={{ fontSize: 17 }}>{part.name} is not read yet</h2>
                  <p className="quiet">Reading finds the notes in it. The recording itself stays as it is.</p>
                  <Button type="primary" size="large" onClick={() => reading.read(firstRequest(part))}>
                    {readLabel(firstRequest(part))}
                  </Button>
                </>
              )}
            </div>
          </div>
        )}
      </div>
      {sheetOpen && (
        <LineSheet
          part={part}
          passage={passage}
          editing={editing}
          reading={reading}
          melodies={melodies}
          contour={contour}
          contours={contours}
          selected={shownSelection}
          step={step}
          tool={tool}
          setTool={setTool}
          proposals={proposals}
          change={change}
          setSelected={setSelected}
          doubtful={doubtful}
          timing={timing}
          noteTiming={noteTiming}
        />
      )}
    </>
  );
}
