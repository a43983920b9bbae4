/** Web worker that renders corrected recordings. What is measured of a recording is kept while it is in use. */
import type { Contour } from '@plundra/core/reading';
import {
  applyPatches,
  createStretchRenderer,
  createRetuner,
  createWarpRenderer,
  warpedSamples,
  type Patch,
  type Retuner,
  type CorrectionSpec,
  type WarpRenderer,
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
  /** What is laid over the recording. */
  | { type: 'render'; id: number; key: string; spec: CorrectionSpec | null }
  /** A passage at a speed of its own: measured ahead, and answered when it is; stretches of it can be had at once. */
  | { type: 'warp'; id: number; key: string; spec: CorrectionSpec | null; warp: WarpSpec }
  /** A stretch is made before it has to sound, and answered when it is. */
  | ({ type: 'ahead'; id: number; warpId: number } & Stretch)
  /** A stretch for whoever plays at the other end of the port, and what he asks for there from then on. */
  | ({ type: 'stream'; warpId: number; port: MessagePort } & Stretch)
  | { type: 'forget'; warpId: number }
  | { type: 'close'; key: string };

/** Of a passage at a speed of its own, in samples from its start. */
interface Stretch {
  fromSample: number;
  toSample: number;
}

export interface RetuneAnswer {
  id: number;
  /** Of a render. */
  patches: Patch[];
  limited: string[];
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
  /** By the correction that is laid in first; the newest last. */
  warping: Map<string, WarpRenderer>;
}

interface Warped {
  source: Source;
  renderer: WarpRenderer;
  warp: WarpSpec;
}

const sources = new Map<string, Source>();
const warps = new Map<number, Warped>();

const SLICE_SECONDS = 3;
const WARM_UP_SECONDS = 0.3;
const WARM_UP_ROUNDS = 16;

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

/** What warps a take as it is corrected. Of those that no passage uses any more only the newest is kept. */
function warping(source: Source, corrected: string, spec: CorrectionSpec | null): WarpRenderer {
  const known = source.warping.get(corrected);
  if (known) return known;
  const used = new Set([...warps.values()].map(({ renderer }) => renderer));
  const before = [...source.warping.values()].pop();
  for (const [name, renderer] of source.warping)
    if (renderer !== before && !used.has(renderer)) source.warping.delete(name);
  const { patches } = render(source, spec);
  const channels = patches.length > 0 ? applyPatches(source.channels, patches) : source.channels;
  const made = createWarpRenderer(channels, source.sampleRateHz, before);
  source.warping.set(corrected, made);
  return made;
}

/** Measures a passage in blocks, so that a stretch that is asked for meanwhile need not wait. */
function measure(id: number): void {
  answering(id, () => {
    const warped = warps.get(id);
    const points = warped?.warp.points;
    if (
      points &&
      warped.renderer.onsets.prepare(points[0].fromSeconds, points[points.length - 1].fromSeconds)
    )
      setTimeout(() => measure(id), 0);
    else {
      answer({ id });
      if (warped) warmUp(warped);
    }
  });
}

let warm = false;

/**
 * The first stretches take ten times as long as all that follow: what plans and makes them is compiled on the way. So other tempos
 * are made once where nobody waits for them.
 */
function warmUp({ renderer, warp, source }: Warped): void {
  if (warm || warp.how === 'slice') return;
  warm = true;
  const trial = createWarpRenderer(source.channels, source.sampleRateHz, renderer);
  const round = (n: number) => {
    const ratio = 1 + 0.01 * (n + 1);
    const points = warp.points.map((point) => ({ ...point, toSeconds: point.toSeconds * ratio }));
    const other = { ...warp, points };
    const samples = warpedSamples(other, source.sampleRateHz);
    const begun = Math.floor((samples * n) / WARM_UP_ROUNDS);
    const asked = Math.min(samples, begun + Math.round(WARM_UP_SECONDS * source.sampleRateHz));
    trial.render(other, begun, asked, begun);
    if (n + 1 < WARM_UP_ROUNDS) setTimeout(() => round(n + 1), 0);
  };
  round(0);
}

function answer(given: Pick<RetuneAnswer, 'id'> & Partial<RetuneAnswer>): void {
  self.postMessage({ patches: [], limited: [], ...given } satisfies RetuneAnswer);
}

/** Gives whoever plays a passage what he asks for next; see streamProcessor.js. */
function stream({ renderer, warp }: Warped, port: MessagePort, first: Stretch): void {
  const give = ({ fromSample, toSample }: Stretch) => {
    try {
      const channels = renderer.render(warp, fromSample, toSample, first.fromSample);
      port.postMessage({ fromSample, channels }, { transfer: channels.map(({ buffer }) => buffer) });
    } catch (error) {
      port.postMessage({ message: failure(error) });
    }
  };
  port.onmessage = ({ data }: MessageEvent<Stretch | 'over'>) => {
    if (data === 'over') port.close();
    else give(data);
  };
  give(first);
}

function failure(error: unknown): string {
  const why = error instanceof Error ? error.message : String(error);
  return `A correction could not be made audible (${why}). Take it back, or change it again.`;
}

/** Does what was asked, or says why not. */
function answering(id: number, work: () => void): void {
  try {
    work();
  } catch (error) {
    self.postMessage({ id, message: failure(error) } satisfies RetuneFailure);
  }
}

function sourceOf(key: string): Source {
  const source = sources.get(key);
  if (!source) throw new Error('The recording is not at hand any more.');
  return source;
}

self.onmessage = ({ data: request }: MessageEvent<RetuneRequest>) => {
  switch (request.type) {
    case 'open': {
      const { key, channels, sampleRateHz, contour } = request;
      const retuner = contour && createRetuner(channels, sampleRateHz, contour);
      sources.set(key, {
        channels,
        sampleRateHz,
        retuner,
        renderStretch: createStretchRenderer(channels, sampleRateHz),
        warping: new Map(),
      });
      if (retuner) prepare(key, retuner, 0, channels[0].length / sampleRateHz);
      break;
    }
    case 'render':
      answering(request.id, () => answer({ id: request.id, ...render(sourceOf(request.key), request.spec) }));
      break;
    case 'warp':
      answering(request.id, () => {
        const { id, key, spec, warp } = request;
        const source = sourceOf(key);
        warps.set(id, { source, renderer: warping(source, JSON.stringify(spec), spec), warp });
        setTimeout(() => measure(id), 0);
      });
      break;
    case 'ahead':
      answering(request.id, () => {
        const { id, warpId, fromSample, toSample } = request;
        const warped = warps.get(warpId);
        warped?.renderer.render(warped.warp, fromSample, toSample, fromSample);
        answer({ id });
      });
      break;
    case 'stream': {
      // A round that was begun while an edit was made may ask for what is forgotten by now; it is stopped as well.
      const warped = warps.get(request.warpId);
      if (warped) stream(warped, request.port, request);
      break;
    }
    case 'forget':
      warps.delete(request.warpId);
      break;
    case 'close':
      sources.delete(request.key);
  }
};
