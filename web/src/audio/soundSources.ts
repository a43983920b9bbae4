/** What is made of the recordings before they sound: takes as they are corrected, and passages at a speed of their own. */
import {
  correctedTakes,
  correctionSpecOf,
  warpOf,
  type CorrectedTake,
  type CorrectionSpec,
  type WarpSpec,
} from '@plundra/core/retune';
import {
  createTimeMap,
  isWarped,
  soundingSpans,
  type RecordingPart,
  type Song,
  type SoundingSpan,
  type TimeMap,
} from '@plundra/core/song';

/** The same take asks for the same; only one that changed is gone through again. */
const knownSpecs = new WeakMap<CorrectedTake, CorrectionSpec | null>();

export function specOfTake(take: CorrectedTake): CorrectionSpec | null {
  let spec = knownSpecs.get(take);
  if (spec === undefined) {
    spec = correctionSpecOf(take);
    knownSpecs.set(take, spec);
  }
  return spec;
}

/** Names what is made for a span: its take's correction, or its own sound where it has another speed. */
export interface SoundSource {
  key: string;
  warp: WarpSpec | undefined;
}

export function sourceOfSpan(part: RecordingPart, span: SoundingSpan, time: TimeMap): SoundSource {
  const ofTake = `${part.id}/${span.takeId}`;
  if (!span.warp) return { key: ofTake, warp: undefined };
  const take = correctedTakes(part).find(({ takeId }) => takeId === span.takeId);
  const hits = part.material === 'drums' || take?.stretch?.how === 'slice' || take?.line?.reads === 'hits';
  const warp = warpOf(span.warp, time, hits ? 'slice' : 'stretch');
  const spec = take && specOfTake(take);
  // Copies of a loop sound alike, and are made once, whatever they are called; only notes that were corrected are a take's own.
  const from = !spec
    ? span.recordingHash
    : spec.as === 'stretch'
      ? `${span.recordingHash} ${nameOf(spec)}`
      : ofTake;
  return { key: `${from} ${JSON.stringify(warp)}`, warp };
}

const knownNames = new WeakMap<CorrectionSpec, string>();

function nameOf(spec: CorrectionSpec): string {
  let name = knownNames.get(spec);
  if (name === undefined) knownNames.set(spec, (name = JSON.stringify(spec)));
  return name;
}

/** Takes of which something sounds at the speed it was recorded, or whose onsets are shown as they were moved. */
export function takesAsRecorded(part: RecordingPart): CorrectedTake[] {
  const unwarped = new Set(part.passages.filter((each) => !isWarped(each)).map(({ takeId }) => takeId));
  return correctedTakes(part).filter((take) => {
    const spec = specOfTake(take);
    return unwarped.has(take.takeId) || spec?.as !== 'stretch' || spec.stretch.onsets.length > 0;
  });
}

export interface WarpedSource extends SoundSource {
  take: CorrectedTake;
  warp: WarpSpec;
}

/** The passages of a song that sound at a speed of their own; each sound once. */
export function warpedSources(song: Pick<Song, 'parts' | 'tempoMap' | 'metreMap'>): WarpedSource[] {
  const time = createTimeMap(song);
  const sources = new Map<string, WarpedSource>();
  for (const part of song.parts) {
    if (part.kind !== 'recording' || !part.passages.some(isWarped)) continue;
    const takes = correctedTakes(part);
    for (const span of soundingSpans(part, time)) {
      const { key, warp } = sourceOfSpan(part, span, time);
      const take = takes.find(({ takeId }) => takeId === span.takeId);
      if (warp && take) sources.set(key, { key, warp, take });
    }
  }
  return [...sources.values()];
}
