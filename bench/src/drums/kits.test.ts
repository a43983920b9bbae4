import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { encodeWav } from '@plundra/core/formats';
import { KIT_RATE_HZ, loadKits, playKit, type Kit } from './kits.ts';

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'kits-'));
});
afterEach(() => rmSync(folder, { recursive: true }));

/** A kit each of whose instruments holds files with a constant level each. */
function writeKit(name: string, instruments: [called: string, levels: number[]][]): void {
  mkdirSync(join(folder, name));
  const layers = instruments.map(([called, levels], i) => {
    const stored = levels.map((level, k) => {
      const sound = new Float32Array(KIT_RATE_HZ).fill(level);
      writeFileSync(join(folder, name, `${i}-${k}.wav`), encodeWav([sound], KIT_RATE_HZ, 'float'));
      return `<layer><filename>${i}-${k}.wav</filename><min>${k / levels.length}</min><max>${(k + 1) / levels.length}</max></layer>`;
    });
    return `<instrument><name>${called}</name>${stored.join('')}</instrument>`;
  });
  writeFileSync(
    join(folder, name, 'drumkit.xml'),
    `<drumkit_info><name>${name}</name><instrumentList>${layers.join('')}</instrumentList></drumkit_info>`,
  );
}

async function kitOf(instruments: [called: string, levels: number[]][]): Promise<Kit> {
  writeKit('Kit', instruments);
  const [kit] = await loadKits(folder);
  return kit;
}

const strike = (startSeconds: number, midi: number, velocity: number) => ({
  startSeconds,
  endSeconds: startSeconds + 0.1,
  midi,
  velocity,
});
const at = (samples: Float32Array, seconds: number) => samples[Math.round(seconds * KIT_RATE_HZ)];

describe('kits of other people', () => {
  it('gives the drums their General MIDI keys by what they are called, toms from high to low', async () => {
    const names = [
      'Bass Drum',
      'Snare Rimshot',
      'Snare 1',
      'Hat closed',
      'HH open',
      'Tom hi',
      'Tom mid',
      'Tom low',
    ];
    const kit = await kitOf(
      [...names, 'Crash Ride', 'Ride bell', 'Ride', 'Cowbell'].map((name) => [name, [0.5]]),
    );
    expect([...kit.drums.keys()]).toEqual([36, 38, 42, 46, 48, 45, 41, 51]);
  });

  it('leaves out kits without drums', async () => {
    writeKit('Effects', [['Whoosh', [0.5]]]);
    mkdirSync(join(folder, 'empty'));
    expect(await loadKits(folder)).toEqual([]);
  });

  it('plays the recording of the velocity', async () => {
    const kit = await kitOf([['Kick', [0.1, 0.4]]]);
    const samples = playKit(kit, [strike(0.1, 36, 40), strike(1.5, 36, 100)], 3);
    expect(at(samples, 0.05)).toBe(0);
    expect(at(samples, 0.3)).toBeCloseTo((0.1 * (1 + 40 / 128)) / 2, 5);
    expect(at(samples, 1.7)).toBeCloseTo((0.4 * (1 + 100 / 128)) / 2, 5);
  });

  it('ends a hat where the next hat is struck, and no other drum', async () => {
    const kit = await kitOf([
      ['Open hat', [0.25, 0.25]],
      ['Closed hat', [0.125, 0.125]],
      ['Kick', [0.5, 0.5]],
    ]);
    const loud = (1 + 64 / 128) / 2;
    const hats = playKit(kit, [strike(0, 46, 64), strike(0.5, 42, 64)], 2);
    expect(at(hats, 0.49)).toBeCloseTo(0.25 * loud, 5);
    expect(at(hats, 0.52)).toBeCloseTo(0.125 * loud, 5);
    const kicks = playKit(kit, [strike(0, 36, 64), strike(0.5, 42, 64)], 2);
    expect(at(kicks, 0.52)).toBeCloseTo((0.5 + 0.125) * loud, 5);
  });
});
