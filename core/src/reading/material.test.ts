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

/** Two drums at each stroke, which is like that of a drum by so much; which drums they are is not sure. */
const hits = (perSecond: number, attack: number): ReadHit[] =>
  Array.from({ length: 2 * perSecond * SECONDS }, (_, i) => ({
    seconds: Math.floor(i / 2) / perSecond + 0.01 * (i % 2),
    kind: i % 2 ? 'snare' : 'closed-hat',
    velocity: 90,
    evidence: 0.5,
    confidence: 0.4,
    attack,
  }));

describe('what a recording holds', () => {
  it.each([
    ['one pitch at a time', sounding(1), [], 'line'],
    ['three pitches at once', sounding(3), hits(4, 0.8), 'chordal'],
    ['strokes with hardly a pitch', sounding(1, 0.3), hits(1, 0.65), 'drums'],
    ['few strokes with hardly a pitch', sounding(1, 0.3), hits(0.5, 0.8), 'line'],
    ['clicks that are like no drum, without any pitch', sounding(1, 0.05), hits(1, 0.2), 'drums'],
    ['clicks that are like no drum, beside pitches', sounding(1, 0.3), hits(1, 0.2), 'line'],
    ['many strokes whose skins ring on a pitch', sounding(1), hits(2, 0.8), 'drums'],
    // Two hits of one stroke are one stroke.
    ['a stroke a second that is like drums', sounding(1), hits(1, 0.8), 'line'],
    // Slapped strings sound a little like drums at every stroke.
    ['many strokes that only resemble drums', sounding(1), hits(4, 0.65), 'line'],
  ] as const)('%s', (_, activations, heard, material) => {
    expect(judgeMaterial(activations, heard).material).toBe(material);
  });
});
