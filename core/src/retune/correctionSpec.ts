/** The correction of a passage's sound as data, and its rendering. */
import type { Contour } from '../reading/index.ts';
import { heardAt, melodyLineOf, type Line, type RecordingPassage, type Stretch } from '../song/index.ts';
import type { CorrectedNote } from './correction.ts';
import { correctedNotes, isCorrected } from './lineCorrection.ts';
import { renderStretch, type StretchSpec } from './stretchSound.ts';
import type { Patch } from './render.ts';
import { createRetuner } from './retune.ts';

/** Notes corrected one by one, or onsets moved and everything transposed. */
export type CorrectionSpec =
  { as: 'notes'; notes: CorrectedNote[]; formantSemitones: number } | { as: 'stretch'; stretch: StretchSpec };

/** Null where the passage sounds as it was recorded. */
export function correctionSpecOf(passage: RecordingPassage): CorrectionSpec | null {
  const { stretch } = passage;
  const line = melodyLineOf(passage);
  if (line) return isCorrected(line) ? specOfLine(line) : null;
  return stretch && isStretched(stretch) ? specOfStretch(stretch, passage) : null;
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

const specOfStretch = (stretch: Stretch, passage: RecordingPassage): CorrectionSpec => ({
  as: 'stretch',
  stretch: {
    onsets: stretch.onsets.map((onset) => ({
      id: onset.id,
      fromSeconds: onset.seconds,
      toSeconds: heardAt(onset),
    })),
    semitones: stretch.semitones,
    how: stretch.how,
    fromSeconds: passage.offsetSeconds,
    toSeconds: passage.offsetSeconds + passage.durationSeconds,
  },
});
