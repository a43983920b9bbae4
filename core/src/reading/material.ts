/** Which reading suits a recording: one line, several notes at once, or hits. */
import type { Activations } from './chordal/activations.ts';
import { KEYS } from './chordal/network.ts';
import type { ReadHit } from './hits/readHits.ts';
import { HOP_SECONDS } from './melodySettings.ts';

export interface MaterialChoice {
  material: 'line' | 'chordal' | 'drums';
  /** A sentence for the user. */
  reason: string;
}

/** Changes whenever the same recording could be judged differently. */
export const MATERIAL_ALGORITHM_VERSION = 4;
/** So many seconds from the start of the sound decide. */
export const MATERIAL_SECONDS = 30;
/** A key sounds from this activation on. */
const SOUNDING = 0.5 * 255;
/** Frames this far below the loudest are pauses: 30 dB in half decibels. */
const PAUSE_STEPS = 60;
/** From so many keys at once, on average over what sounds, on it is chordal: a line with a room has about 1.1. */
const CHORDAL_KEYS = 1.5;
/** Drums have pitches in less than this share of what is loud, and this many strokes a second … */
const DRUMS_PITCHED_SHARE = 0.5;
const DRUMS_STROKES_PER_SECOND = 0.7;
/** … or, where skins ring on a pitch, so many that no line has them. */
const BUSY_STROKES_PER_SECOND = 1.5;
/** What sounds like any drum counts, whichever it is … */
const LIKE_DRUMS = 0.6;
/** … and more so where there are pitches: slapped strings do at some of their strokes. */
const MUCH_LIKE_DRUMS = 0.7;
/** Where less than this share has a pitch, whatever is struck counts: clicks, sticks. */
const TONELESS_SHARE = 0.1;
const STRUCK = 0.5;
/** Hits nearer than this are of one stroke. */
const ONE_STROKE_SECONDS = 0.03;

export function judgeMaterial(activations: Activations, hits: readonly ReadHit[]): MaterialChoice {
  const { frames, active, level } = activations;
  const loudest = new Uint8Array(frames);
  const sounding = new Uint8Array(frames);
  for (let frame = 0; frame < frames; frame++) {
    for (let at = frame * KEYS; at < (frame + 1) * KEYS; at++) {
      if (level[at] > loudest[frame]) loudest[frame] = level[at];
      if (active[at] >= SOUNDING) sounding[frame]++;
    }
  }
  const top = loudest.reduce((most, value) => Math.max(most, value), 0);
  let loud = 0;
  let pitched = 0;
  let keys = 0;
  for (let frame = 0; frame < frames; frame++) {
    if (loudest[frame] < top - PAUSE_STEPS) continue;
    loud++;
    if (sounding[frame] > 0) pitched++;
    keys += sounding[frame];
  }
  const atOnce = pitched > 0 ? keys / pitched : 0;
  const seconds = Math.max(1, loud * HOP_SECONDS);
  const counted =
    pitched < TONELESS_SHARE * loud
      ? hits.filter(({ evidence }) => evidence >= STRUCK)
      : likeDrums(hits, LIKE_DRUMS);
  const strokesPerSecond = countStrokes(counted) / seconds;
  const dry = pitched < DRUMS_PITCHED_SHARE * loud && strokesPerSecond >= DRUMS_STROKES_PER_SECOND;
  const busy = countStrokes(likeDrums(hits, MUCH_LIKE_DRUMS)) / seconds >= BUSY_STROKES_PER_SECOND;
  if (dry || (busy && atOnce < CHORDAL_KEYS))
    return {
      material: 'drums',
      reason: `Read as drums: ${strokesPerSecond.toFixed(1)} strokes a second, and hardly a lasting pitch.`,
    };
  if (atOnce >= CHORDAL_KEYS)
    return {
      material: 'chordal',
      reason: `Read as chordal: ${atOnce.toFixed(1)} notes sound at once on average.`,
    };
  return { material: 'line', reason: 'Read as one line: hardly ever does more than one note sound.' };
}

const likeDrums = (hits: readonly ReadHit[], least: number) => hits.filter(({ attack }) => attack >= least);

/** @param hits in order of time */
function countStrokes(hits: readonly ReadHit[]): number {
  let [count, last] = [0, -Infinity];
  for (const { seconds } of hits) {
    if (seconds - last < ONE_STROKE_SECONDS) continue;
    count++;
    last = seconds;
  }
  return count;
}
