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
export const MATERIAL_ALGORITHM_VERSION = 2;
/** So many seconds from the start of the sound decide. */
export const MATERIAL_SECONDS = 30;
/** A key sounds from this activation on. */
const SOUNDING = 0.5 * 255;
/** Frames this far below the loudest are pauses: 30 dB in half decibels. */
const PAUSE_STEPS = 60;
/** From so many keys at once, on average over what sounds, on it is chordal: a line with a room has about 1.1. */
const CHORDAL_KEYS = 1.5;
/** Drums have pitches in less than this share of what is loud, and this many sure hits a second … */
const DRUMS_PITCHED_SHARE = 0.5;
const DRUMS_HITS_PER_SECOND = 0.7;
/** … or, where skins ring on a pitch, so many that no line has them. */
const BUSY_HITS_PER_SECOND = 2.5;
const SURE_HIT = 0.9;

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
  const hitsPerSecond = hits.filter((hit) => hit.confidence >= SURE_HIT).length / seconds;
  const dry = pitched < DRUMS_PITCHED_SHARE * loud && hitsPerSecond >= DRUMS_HITS_PER_SECOND;
  if (dry || (hitsPerSecond >= BUSY_HITS_PER_SECOND && atOnce < CHORDAL_KEYS))
    return {
      material: 'drums',
      reason: `Read as drums: ${hitsPerSecond.toFixed(1)} hits a second, and hardly a lasting pitch.`,
    };
  if (atOnce >= CHORDAL_KEYS)
    return {
      material: 'chordal',
      reason: `Read as chordal: ${atOnce.toFixed(1)} notes sound at once on average.`,
    };
  return { material: 'line', reason: 'Read as one line: hardly ever does more than one note sound.' };
}
