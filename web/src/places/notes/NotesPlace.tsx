/** The Notes place: one part's notes on the canvas, the steps of the work above, numbers and actions beside. */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Alert, Progress, Result } from 'antd';
import { Link, Navigate, useParams } from 'react-router';
import { groupStrokes, type Stroke } from '@plundra/core/reading';
import {
  createPassageTime,
  GRID_VALUES,
  melodyLineOf,
  planNotePull,
  type Grid,
  type NotePassage,
  type RecordingPassage,
} from '@plundra/core/song';
import { Button, Select } from '../../controls/index.tsx';
import { Overflow } from '../../controls/Overflow.tsx';
import { placedOwnChords, usePlacedChords } from '../../canvas/chordRow.ts';
import { deferred } from '../../song/deferred.tsx';
import { useSong } from '../../song/SongContext.tsx';
import { waitingFor } from '../../song/waitingFor.ts';
import { useRecording } from '../../song/useRecording.ts';
import { partColours } from '../../theme/tokens.ts';
import { notesOfLine, type CanvasNote } from './canvasNote.ts';
import { meantNotes, planPull, pullNotes, tuneNotes } from './correcting.ts';
import type { Tool } from './gesture.ts';
import { LineCanvas, type LineCanvasHandle } from './LineCanvas.tsx';
import { createLineEditor } from './lineEditor.ts';
import type { LineScene } from './lineScene.ts';
import { LineSheet } from './LineSheet.tsx';
import { createOnsetEditor } from './onsetEditor.ts';
import { pullChange } from './OnsetSheet.tsx';
import { countNotes, type LabelledEdit, type NoteEditing } from './noteEditing.ts';
import { drumRowsOf, inDrumRows, keyOfRow } from './drumRows.ts';
import { soundingPitches } from './soundingPitches.ts';
import { createPassageEditor } from './passageEditor.ts';
import { StepStrip, type StepName } from './StepStrip.tsx';
import { gridName } from './GridPullFields.tsx';
import { useDoubtful } from './useDoubtful.ts';
import { useLineKeys } from './useLineKeys.ts';
import { useProposals } from './useProposals.ts';
import { firstRequest, readLabel } from './ReadSheet.tsx';
import { useReading } from './useReading.ts';
import { meantOf, useNoteTiming } from './useNoteTiming.ts';
import { useTiming } from './useTiming.ts';

const StepStripLater = deferred(StepStrip);
const NOTHING: ReadonlySet<string> = new Set();
const NO_NOTES: readonly CanvasNote[] = [];
const NO_STROKES: readonly Stroke[] = [];
const createId = () => crypto.randomUUID();

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

function OpenPart({ partId }: { partId: string }) {
  const songValue = useSong();
  const { song, time, apply, engine, listen } = songValue;
  const part = song.parts.find((each) => each.id === partId)!;
  const passage: RecordingPassage | NotePassage | undefined = part.passages[0];
  const recorded = passage?.type === 'recording' ? passage : null;
  // A note part that was made from a recording shows it underneath, so that gaps can be compared with gaps.
  const source =
    part.kind === 'recording' ? undefined : song.parts.find((each) => each.id === part.madeFromPartId);
  const shown = recorded ?? (source?.kind === 'recording' ? (source.passages[0] ?? null) : null);
  const hasRecording = shown !== null;
  const canvas = useRef<LineCanvasHandle>(null);
  const [selected, setSelected] = useState<ReadonlySet<string>>(NOTHING);
  const [tool, setTool] = useState<Tool>('select');
  const [grid, setGrid] = useState<Grid>('adaptive');
  const [step, setStep] = useState<StepName>(recorded && !recorded.line ? 'read' : 'clean');
  const [sheetOpen, setSheetOpen] = useState(true);

  const reading = useReading(source?.id ?? partId, shown);
  const sound = useRecording(shown?.recordingHash);
  const contour = reading.contour;

  const editing: NoteEditing | null = useMemo(() => {
    if (!passage) return null;
    if (passage.type === 'notes') return createPassageEditor(partId, passage, time, createId);
    const { line, stretch } = passage;
    if (melodyLineOf(passage))
      return contour
        ? createLineEditor(partId, passage, contour, time, createId, step === 'tune' ? 'target' : 'name')
        : null;
    if (step === 'time') return stretch ? createOnsetEditor(partId, passage, stretch, time, createId) : null;
    return line ? createLineEditor(partId, passage, undefined, time, createId) : null;
  }, [partId, passage, contour, time, step]);

  // A line that just arrived moves the work on to cleaning up.
  const hasLine = recorded?.line != null;
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

  const timing = useTiming(recorded, shownSelection, step === 'time');
  const notePassage = passage?.type === 'notes' ? passage : null;
  const noteTiming = useNoteTiming(notePassage, shownSelection, step === 'time');

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
  const scene: Omit<LineScene, 'view' | 'gridStepTicks' | 'notes'> = useMemo(
    () => ({
      time,
      key: song.key,
      selected: shownSelection,
      ...proposals.shown,
      chords,
      sounding,
      drumRows,
      strokes,
      recording: null,
      unpitched: editing?.unpitched ?? false,
      backdrop,
      partColour: partColours[part.colour],
      before: listen.before,
      ...timing.shown,
      ...(notePassage && { wouldGo: noteTiming.wouldGo }),
    }),
    [
      time,
      song.key,
      shownSelection,
      proposals.shown,
      editing?.unpitched,
      backdrop,
      part.colour,
      listen.before,
      timing.shown,
      notePassage,
      noteTiming.wouldGo,
      strokes,
      chords,
      sounding,
      drumRows,
    ],
  );
  // What lies under the notes does not change with them.
  const { startTicks = 0, offsetSeconds = 0, durationSeconds = 0, chords: ownChords } = shown ?? {};
  const sceneRecording = useMemo(() => {
    if (!hasRecording) return null;
    const { originSeconds } = createPassageTime({ startTicks, offsetSeconds }, time);
    const span = { offsetSeconds, durationSeconds };
    return {
      peaks: sound.peaks,
      sampleRateHz: sound.recording?.sampleRateHz ?? 44100,
      durationSeconds,
      contour,
      originSeconds,
      fromSeconds: offsetSeconds,
      toSeconds: offsetSeconds + durationSeconds,
      ownChords: placedOwnChords(ownChords, span, originSeconds),
    };
  }, [
    hasRecording,
    startTicks,
    offsetSeconds,
    durationSeconds,
    ownChords,
    sound.peaks,
    sound.recording,
    contour,
    time,
  ]);
  const fullScene = useMemo(() => ({ ...scene, recording: sceneRecording }), [scene, sceneRecording]);

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
    const line = melodyLineOf(recorded);
    if (!recorded || !line) return;
    change(tuneNotes(partId, recorded, meantNotes(line, shownSelection), { centre: 1 }, song.key));
  };
  const pullByKey = () => {
    if (notePassage && part.kind !== 'recording') {
      const { put } = planNotePull(
        notePassage,
        meantOf(notePassage, shownSelection),
        noteTiming.settings,
        time,
      );
      if (put.length > 0)
        change({
          label: `Pull ${countNotes(put.length)} to the grid`,
          edit: { type: 'passage.notes', partId, passageId: notePassage.id, remove: [], put },
        });
      return;
    }
    if (!recorded) return;
    const line = melodyLineOf(recorded);
    if (!line) {
      const { plan } = timing;
      if (plan?.stretch && plan.report.moving > 0)
        change(pullChange(partId, recorded, plan.report.moving, plan.stretch));
      return;
    }
    const notes = meantNotes(line, shownSelection);
    const plan = planPull(recorded, notes, timing.settings, time);
    if (plan.report.moving > 0) change(pullNotes(partId, recorded, notes, plan, time));
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

  if (!passage)
    return (
      <Result
        style={{ margin: 'auto' }}
        status="info"
        title="This part is empty"
        subTitle="It holds no passage. Remove it on the Timeline, or undo what emptied it."
      />
    );
  return (
    <>
      <div className="main">
        <StepStripLater
          part={part}
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
          <Overflow label="Grid">
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
          onSelect={(ids) => {
            setSelected(ids);
            if (ids.size > 0) setSheetOpen(true);
          }}
          onChange={change}
          onHear={hear}
        />
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
          contour={contour}
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
