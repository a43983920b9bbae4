import { describe, expect, it } from 'vitest';
import { keyName } from '../../theory/index.ts';
import { KEYS, LOWEST_KEY, type Activations } from '../chordal/index.ts';
import { keyOfLine } from './keyOfLine.ts';

/** Each of these pitches for so many frames. */
function line(...notes: (readonly [midi: number, frames: number])[]): Activations {
  const frames = notes.reduce((sum, [, count]) => sum + count, 0);
  const active = new Uint8Array(frames * KEYS);
  let frame = 0;
  for (const [midi, count] of notes)
    for (let i = 0; i < count; i++) active[frame++ * KEYS + midi - LOWEST_KEY] = 255;
  return { frames, active } as unknown as Activations;
}
const beats = (...midi: number[]) => line(...midi.map((each) => [each, 40] as const));

describe('the key of a single line', () => {
  it('is that whose scale it uses', () => {
    // A bass walking through F, B♭ and C.
    const found = keyOfLine(beats(41, 45, 48, 50, 46, 50, 53, 50, 48, 52, 55, 52, 41, 48, 45, 43))!;
    expect(keyName(found.key)).toBe('F major');
    expect(found.confidence).toBeGreaterThan(0.5);
  });

  it('is, of two with the same notes, the one that it begins on', () => {
    // The white keys once each, from C and from A.
    expect(keyName(keyOfLine(beats(60, 62, 64, 65, 67, 69, 71))!.key)).toBe('C major');
    expect(keyName(keyOfLine(beats(57, 59, 60, 62, 64, 65, 67))!.key)).toBe('A minor');
  });

  it('is not known where hardly anything has a pitch', () => {
    expect(keyOfLine(line([60, 3]))).toBeUndefined();
    expect(
      keyOfLine({ frames: 500, active: new Uint8Array(500 * KEYS) } as unknown as Activations),
    ).toBeUndefined();
  });
});
