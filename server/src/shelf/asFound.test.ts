import { describe, expect, it } from 'vitest';
import type { ShelfItem } from '@plundra/core/shelf';
import { asFound } from './asFound.ts';

const item: ShelfItem = {
  id: 'a',
  name: 'Bell buoy',
  kind: 'recording',
  material: 'other',
  tags: [],
  key: null,
  bpm: null,
  metre: { beats: 4, unit: 4 },
  sound: {
    type: 'recording',
    recordingHash: 'a'.repeat(64),
    offsetSeconds: 0,
    durationSeconds: 4,
    upbeatSeconds: 0,
    picture: [],
  },
  listening: true,
  createdAt: '2026-01-01T00:00:00Z',
};
const nothing = { material: 'line', loop: false, tempo: null, key: null } as const;
const key = { key: { fifths: 1, mode: 'major' }, confidence: 0.8 } as const;

describe('an item that was listened to', () => {
  it('says that listening broke off, and keeps what is known of it', () => {
    const found = asFound({ ...item, bpm: 90 }, undefined);
    expect(found).toMatchObject({ heardNothing: 'broke off', bpm: 90 });
    expect(found).not.toHaveProperty('listening');
  });

  it('says that there was neither beat nor key, but not where its name says the tempo', () => {
    expect(asFound(item, nothing)).toMatchObject({ heardNothing: 'none there', key: null, bpm: null });
    expect(asFound({ ...item, name: 'Bell buoy 60 bpm' }, nothing)).not.toHaveProperty('heardNothing');
  });

  it('says nothing of it where a later listening found something', () => {
    const before: ShelfItem = { ...item, heardNothing: 'broke off' };
    expect(asFound(before, { ...nothing, key })).not.toHaveProperty('heardNothing');
  });

  it('has the key and the tempo of its name, where what was heard may be these', () => {
    const heard = {
      ...nothing,
      key: { key: { fifths: 0, mode: 'major' }, confidence: 0.8 },
      tempo: { bpm: 240, beats: 4, unit: 4, firstBeatSeconds: 0.5, confidence: 0.6 },
    } as const;
    const named = asFound({ ...item, name: 'Bell buoy Am 120' }, heard);
    expect(named).toMatchObject({ bpm: 120, key: { fifths: 0, mode: 'minor' }, kind: 'recording' });
    // What stands in the name is not a matter of how sure a reader is.
    expect(named).not.toHaveProperty('keyConfidence');
    expect(named).not.toHaveProperty('tempoConfidence');
    // A bare number makes no loop of a recording; its first beat stays where it was heard.
    expect(named.sound).toMatchObject({ upbeatSeconds: 0.5 });
    expect(asFound({ ...item, name: 'Bell buoy 120 bpm' }, heard)).toMatchObject({
      kind: 'loop',
      sound: { upbeatSeconds: 0 },
    });
    expect(asFound({ ...item, name: 'Bell buoy' }, heard)).toMatchObject({
      bpm: 240,
      key: { fifths: 0, mode: 'major' },
      keyConfidence: 0.8,
      tempoConfidence: 0.6,
    });
  });

  it('has no key where it is drums, whatever its name says', () => {
    expect(asFound({ ...item, name: 'Buoy Am' }, { ...nothing, material: 'drums' }).key).toBeNull();
    expect(asFound({ ...item, name: 'Buoy Am' }, nothing).key).toEqual({ fifths: 0, mode: 'minor' });
  });
});
