/** Which stretches of what was recorded become takes, and where they lie in the song. Pure. */
import type { UnfinishedTake } from '@plundra/contract';

export interface TakePiece {
  /** Of the recording: with some time before and after, so that an edge can be dragged out. */
  fromFrame: number;
  toFrame: number;
  /** The window on it that lies in the song. */
  offsetSeconds: number;
  durationSeconds: number;
}

export interface TakePieces {
  pieces: TakePiece[];
  /** The one that is heard at first: the last that goes all the way. */
  heard: number;
}

/** So much of the rounds before and after belongs to each. */
const AROUND_SECONDS = 2;
/** Shorter takes were slips of the hand. */
const SHORTEST_SECONDS = 0.2;
/** A round that broke off earlier than this is none, unless it is the only one. */
const SHORTEST_ROUND_SECONDS = 1;

/** Empty where nothing was recorded that could be meant. */
export function takePieces(take: Omit<UnfinishedTake, 'idleSeconds'>): TakePieces {
  const { sampleRateHz, frames, startFrame, roundSeconds, lengthSeconds } = take;
  const start = startFrame / sampleRateHz;
  const end = frames / sampleRateHz;
  const wanted = Math.min(end - start, lengthSeconds ?? Infinity);
  if (wanted < SHORTEST_SECONDS) return { pieces: [], heard: 0 };
  if (roundSeconds === undefined)
    return {
      pieces: [{ fromFrame: 0, toFrame: frames, offsetSeconds: start, durationSeconds: wanted }],
      heard: 0,
    };
  const pieces: TakePiece[] = [];
  let heard = 0;
  for (let from = start; end - from >= SHORTEST_SECONDS; from += roundSeconds) {
    const durationSeconds = Math.min(roundSeconds, end - from);
    if (pieces.length > 0 && durationSeconds < SHORTEST_ROUND_SECONDS) break;
    const fromFrame = Math.max(0, Math.floor((from - AROUND_SECONDS) * sampleRateHz));
    const toFrame = Math.min(frames, Math.ceil((from + durationSeconds + AROUND_SECONDS) * sampleRateHz));
    // To the sample: rounds are no whole numbers of them.
    if (durationSeconds > roundSeconds - 1 / sampleRateHz) heard = pieces.length;
    pieces.push({ fromFrame, toFrame, offsetSeconds: from - fromFrame / sampleRateHz, durationSeconds });
  }
  return { pieces, heard };
}
