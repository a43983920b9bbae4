/** What a passage of a song asks of the sound of its recording, and doing it. */
import type { Contour } from '../reading/line.ts';
import { heardAt, melodyLineOf, type Line, type RecordingPassage, type Stretch } from '../song/index.ts';
import type { CorrectedNote } from './correction.ts';
import { correctedNotes, isCorrected } from './lineCorrection.ts';
import { renderPassage, type PassageWish } from './passage.ts';
import type { Patch } from './render.ts';
import { createRetuner } from './retune.ts';

/** Notes corrected one by one, or onsets moved and everything transposed. */
export type Wanted =
  { as: 'notes'; notes: CorrectedNote[]; formantSemitones: number } | { as: 'passage'; passage: PassageWish };

/** Null where the passage sounds as it was recorded. */
export function wantedOf(passage: RecordingPassage): Wanted | null {
  const { stretch } = passage;
  const line = melodyLineOf(passage);
  if (line) return isCorrected(line) ? wantedOfLine(line) : null;
  return stretch && isStretched(stretch) ? wantedOfStretch(stretch, passage) : null;
}

/** Renders it all at once. `contour`: of the line's reading; needed for notes. */
export function renderWanted(
  channels: readonly Float32Array[],
  sampleRateHz: number,
  contour: Contour | undefined,
  wanted: Wanted,
): { patches: Patch[]; limited: string[] } {
  if (wanted.as === 'passage') return renderPassage(channels, sampleRateHz, wanted.passage);
  if (!contour) throw new RangeError('renderWanted: notes cannot be corrected without their contour.');
  const { notes, formantSemitones } = wanted;
  return createRetuner(channels, sampleRateHz, contour).render(notes, { formantSemitones });
}

const wantedOfLine = (line: Line): Wanted => ({
  as: 'notes',
  notes: correctedNotes(line),
  formantSemitones: line.formantSemitones ?? 0,
});

const isStretched = ({ semitones, onsets }: Stretch) =>
  semitones !== 0 || onsets.some((onset) => onset.targetSeconds !== undefined);

const wantedOfStretch = (stretch: Stretch, passage: RecordingPassage): Wanted => ({
  as: 'passage',
  passage: {
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
