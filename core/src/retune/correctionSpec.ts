/**
 * The correction of a take's sound as data, and its rendering. A take is corrected as a whole, and passages are windows on
 * the result: so cutting a recording in two changes nothing of what is heard.
 */
import type { Seconds } from '../signal/index.ts';
import type { Contour } from '../reading/index.ts';
import {
  heardAt,
  melodyLineOf,
  placedRecordings,
  type Line,
  type LineNote,
  type PlacedRecording,
  type RecordingPart,
  type Stretch,
} from '../song/index.ts';
import type { CorrectedNote } from './correction.ts';
import { correctedNotes, isCorrected } from './lineCorrection.ts';
import { renderStretch, type StretchSpec } from './stretchSound.ts';
import type { Patch } from './render.ts';
import { createRetuner } from './retune.ts';

/** Notes corrected one by one, or onsets moved and everything transposed. */
export type CorrectionSpec =
  { as: 'notes'; notes: CorrectedNote[]; formantSemitones: number } | { as: 'stretch'; stretch: StretchSpec };

/** What is read of a take and corrected in it, and how much of it is shown. */
export type Corrected = Pick<PlacedRecording, 'line' | 'stretch' | 'shownSeconds'>;

/** Null where it sounds as it was recorded. */
export function correctionSpecOf(read: Corrected): CorrectionSpec | null {
  const { stretch } = read;
  const line = melodyLineOf(read);
  if (line) return isCorrected(line) ? specOfLine(line) : null;
  return stretch && isStretched(stretch) ? specOfStretch(stretch, read) : null;
}

/** A take that sounds in a part, with the notes that any passage of it shows. */
export interface CorrectedTake extends Corrected {
  takeId: string;
  recordingHash: string;
}

const known = new WeakMap<RecordingPart, readonly CorrectedTake[]>();

/**
 * The takes that a part shows, each once. A note that is moved in time stays inside its passage: else it would be heard
 * in the one that shows the next moments of the take, wherever that lies.
 */
export function correctedTakes(part: RecordingPart): readonly CorrectedTake[] {
  let takes = known.get(part);
  if (!takes) {
    const byTake = new Map<string, PlacedRecording[]>();
    for (const placed of placedRecordings(part)) {
      const others = byTake.get(placed.takeId);
      if (others) others.push(placed);
      else byTake.set(placed.takeId, [placed]);
    }
    takes = [...byTake.values()].map(takeOfPassages);
    known.set(part, takes);
  }
  return takes;
}

function takeOfPassages(passages: readonly PlacedRecording[]): CorrectedTake {
  const [{ takeId, recordingHash, line, stretch, shownSeconds }] = passages;
  const read = { takeId, recordingHash, ...(stretch && { stretch }), shownSeconds };
  if (!line || passages.length === 1) return { ...read, line };
  const notes = passages.flatMap((passage) => {
    const end = passage.offsetSeconds + passage.durationSeconds;
    return (passage.line?.notes ?? []).map((note) => insideWindow(note, passage.offsetSeconds, end));
  });
  return { ...read, line: { ...line, notes: notes.sort((a, b) => a.startSeconds - b.startSeconds) } };
}

/** The note with its target held inside a window, as far as it was played inside. */
function insideWindow(note: LineNote, from: Seconds, to: Seconds): LineNote {
  const { target } = note;
  if (target?.startSeconds === undefined && target?.endSeconds === undefined) return note;
  const start = Math.max(Math.min(from, note.startSeconds), target.startSeconds ?? note.startSeconds);
  const end = Math.min(Math.max(to, note.endSeconds), target.endSeconds ?? note.endSeconds);
  if (start === target.startSeconds && end === target.endSeconds) return note;
  return { ...note, target: { ...target, startSeconds: Math.min(start, end), endSeconds: end } };
}

/** Renders it all at once. `contour`: of the line's reading; needed for notes. */
export function renderCorrection(
  channels: readonly Float32Array[],
  sampleRateHz: number,
  contour: Contour | undefined,
  spec: CorrectionSpec,
): { patches: Patch[]; limited: string[] } {
  if (spec.as === 'stretch') return renderStretch(channels, sampleRateHz, spec.stretch);
  if (!contour) throw new RangeError('renderCorrection: notes cannot be corrected without their contour.');
  const { notes, formantSemitones } = spec;
  return createRetuner(channels, sampleRateHz, contour).render(notes, { formantSemitones });
}

const specOfLine = (line: Line): CorrectionSpec => ({
  as: 'notes',
  notes: correctedNotes(line),
  formantSemitones: line.formantSemitones ?? 0,
});

const isStretched = ({ semitones, onsets }: Stretch) =>
  semitones !== 0 || onsets.some((onset) => onset.targetSeconds !== undefined);

const specOfStretch = (stretch: Stretch, { shownSeconds }: Corrected): CorrectionSpec => ({
  as: 'stretch',
  stretch: {
    onsets: stretch.onsets.map((onset) => ({
      id: onset.id,
      fromSeconds: onset.seconds,
      toSeconds: heardAt(onset),
    })),
    semitones: stretch.semitones,
    how: stretch.how,
    fromSeconds: shownSeconds.from,
    toSeconds: shownSeconds.to,
  },
});
