/** Web worker that renders corrected recordings. One retuner a recording, kept while it is in use. */
import type { Contour } from '@plundra/core/reading';
import { createRetuner, type CorrectedNote, type Patch, type Retuner } from '@plundra/core/retune';

export type RetuneRequest =
  | { type: 'open'; key: string; channels: Float32Array[]; sampleRateHz: number; contour: Contour }
  | { type: 'render'; id: number; key: string; notes: CorrectedNote[]; formantSemitones: number }
  | { type: 'close'; key: string };

export interface RetuneAnswer {
  id: number;
  patches: Patch[];
  limited: string[];
}

const retuners = new Map<string, Retuner>();

const SLICE_SECONDS = 3;

/** Measures ahead what corrections will need, in slices, so that one that is asked for meanwhile need not wait. */
function prepare(key: string, retuner: Retuner, fromSeconds: number, endSeconds: number): void {
  if (retuners.get(key) !== retuner || fromSeconds >= endSeconds) return;
  retuner.prepare(fromSeconds, fromSeconds + SLICE_SECONDS);
  setTimeout(() => prepare(key, retuner, fromSeconds + SLICE_SECONDS, endSeconds), 0);
}

self.onmessage = (event: MessageEvent<RetuneRequest>) => {
  const request = event.data;
  switch (request.type) {
    case 'open': {
      const retuner = createRetuner(request.channels, request.sampleRateHz, request.contour);
      retuners.set(request.key, retuner);
      prepare(request.key, retuner, 0, request.channels[0].length / request.sampleRateHz);
      break;
    }
    case 'render': {
      const { patches, limited } = retuners
        .get(request.key)!
        .render(request.notes, { formantSemitones: request.formantSemitones });
      self.postMessage({ id: request.id, patches, limited } satisfies RetuneAnswer);
      break;
    }
    case 'close':
      retuners.delete(request.key);
  }
};
