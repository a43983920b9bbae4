/** Web worker that renders corrected recordings. What is measured of a recording is kept while it is in use. */
import type { Contour } from '@plundra/core/reading';
import {
  applyPatches,
  createStretchRenderer,
  createRetuner,
  renderWarp,
  type Patch,
  type Retuner,
  type CorrectionSpec,
  type WarpSpec,
} from '@plundra/core/retune';

export type RetuneRequest =
  | {
      type: 'open';
      key: string;
      channels: Float32Array[];
      sampleRateHz: number;
      /** Where notes are to be corrected. */
      contour: Contour | undefined;
    }
  | { type: 'render'; id: number; key: string; spec: CorrectionSpec | null; warp?: WarpSpec }
  | { type: 'close'; key: string };

export interface RetuneAnswer {
  id: number;
  patches: Patch[];
  limited: string[];
  /** Of a passage at a speed of its own. */
  made?: Float32Array[];
}

/** Whoever asked is told, so that nobody waits for ever. */
export interface RetuneFailure {
  id: number;
  message: string;
}

interface Source {
  channels: Float32Array[];
  sampleRateHz: number;
  retuner: Retuner | undefined;
  renderStretch: ReturnType<typeof createStretchRenderer>;
}

const sources = new Map<string, Source>();

const SLICE_SECONDS = 3;

/** Measures ahead what corrections will need, in slices, so that one that is asked for meanwhile need not wait. */
function prepare(key: string, retuner: Retuner, fromSeconds: number, endSeconds: number): void {
  if (sources.get(key)?.retuner !== retuner || fromSeconds >= endSeconds) return;
  retuner.prepare(fromSeconds, fromSeconds + SLICE_SECONDS);
  setTimeout(() => prepare(key, retuner, fromSeconds + SLICE_SECONDS, endSeconds), 0);
}

function render({ retuner, renderStretch }: Source, spec: CorrectionSpec | null) {
  if (!spec) return { patches: [], limited: [] };
  if (spec.as === 'stretch') return renderStretch(spec.stretch);
  return retuner!.render(spec.notes, { formantSemitones: spec.formantSemitones });
}

self.onmessage = (event: MessageEvent<RetuneRequest>) => {
  const request = event.data;
  switch (request.type) {
    case 'open': {
      const { key, channels, sampleRateHz, contour } = request;
      const retuner = contour && createRetuner(channels, sampleRateHz, contour);
      sources.set(key, {
        channels,
        sampleRateHz,
        retuner,
        renderStretch: createStretchRenderer(channels, sampleRateHz),
      });
      if (retuner) prepare(key, retuner, 0, channels[0].length / sampleRateHz);
      break;
    }
    case 'render': {
      const { id, key, spec, warp } = request;
      const source = sources.get(key);
      try {
        if (!source) throw new Error('The recording is not at hand any more.');
        const { patches, limited } = render(source, spec);
        if (!warp) self.postMessage({ id, patches, limited } satisfies RetuneAnswer);
        else {
          const corrected = patches.length > 0 ? applyPatches(source.channels, patches) : source.channels;
          const made = renderWarp(corrected, source.sampleRateHz, warp);
          self.postMessage({ id, patches: [], limited, made } satisfies RetuneAnswer);
        }
      } catch (error) {
        const why = error instanceof Error ? error.message : String(error);
        const message = `A correction could not be made audible (${why}). Take it back, or change it again.`;
        self.postMessage({ id, message } satisfies RetuneFailure);
      }
      break;
    }
    case 'close':
      sources.delete(request.key);
  }
};
