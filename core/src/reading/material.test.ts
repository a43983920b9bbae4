import { describe, expect, it } from 'vitest';
import type { Activations } from './chordal/activations.ts';
import { KEYS } from './chordal/network.ts';
import type { ReadHit } from './hits/readHits.ts';
import { judgeMaterial } from './material.ts';
import { HOP_SECONDS } from './melodySettings.ts';

const SECONDS = 10;
const FRAMES = Math.round(SECONDS / HOP_SECONDS);

/** Ten seconds in which so many keys sound, for the given share of the time; all of it is loud. */
function sounding(keys: number, share = 1): Activations {
  const active = new Uint8Array(FRAMES * KEYS);
  for (let frame = 0; frame < share * FRAMES; frame++)
    for (let key = 0; key < keys; key++) active[frame * KEYS + 30 + 4 * key] = 230;
  return { frames: FRAMES, active, level: new Uint8Array(FRAMES * KEYS).fill(200) } as Activations;
}

const hits = (perSecond: number, confidence: number): ReadHit[] =>
  Array.from({ length: perSecond * SECONDS }, (_, i) => ({
    seconds: i / perSecond,
    kind: 'snare',
    velocity: 90,
    evidence: confidence,
    confidence,
  }));

describe('what a recording holds', () => {
  it.each([
    ['one pitch at a time', sounding(1), [], 'line'],
    ['three pitches at once', sounding(3), hits(4, 0.98), 'chordal'],
    ['strokes with hardly a pitch', sounding(1, 0.3), hits(1, 0.98), 'drums'],
    ['many strokes whose skins ring on a pitch', sounding(1), hits(4, 0.98), 'drums'],
    // Muted strings sound a little like drums at every stroke.
    ['many strokes that only resemble drums', sounding(1), hits(4, 0.85), 'line'],
  ] as const)('%s', (_, activations, heard, material) => {
    expect(judgeMaterial(activations, heard).material).toBe(material);
  });
});
