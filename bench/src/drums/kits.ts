/**
 * Drum kits recorded stroke by stroke, as folders of sound files beside a drumkit.xml that names them (Debian's hydrogen-drumkits and
 * hydrogen-data, unpacked; used here only, never shipped).
 */
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { AudioFormatError } from '@plundra/core/formats';
import { createResampler } from '@plundra/core/signal';
import type { SampledNote } from '@plundra/demo';
import { XMLParser } from 'fast-xml-parser';
import { decodeMono, joined } from '../clips/recordedNotes.ts';

/** Recordings of one drum, each of a range of velocities from 0 to 1. */
type Layers = { from: number; to: number; samples: Float32Array }[];

export interface Kit {
  name: string;
  /** By General MIDI key. */
  drums: Map<number, Layers>;
}

export const KIT_RATE_HZ = 44100;
/** Hats end within this when the next one is struck. */
const CHOKE_SECONDS = 0.005;
const HATS: readonly number[] = [42, 46];
/** A drum in one layer sounds this much softer at the softest. */
const ONE_LAYER_POWER = 2;

/** General MIDI keys of what these kits call their drums; the first that fits, in order, takes the key, toms from high to low. */
const KEYS: readonly [keys: readonly number[], yes: RegExp, no?: RegExp][] = [
  [[62], /(djembe\d|cajon) slap/i],
  [[64, 63], /djembe\d (tone|bass)|bongo/i],
  [[70], /maraca/i],
  [[36], /kick|bass ?drum/i],
  [[38], /snare/i, /roll|rim|jazz|stick/i],
  [[42], /closed|hat.* cl\b/i],
  [[46], /(hat|hh).*(open|\bop\b)|open (hat|hh)/i, /semi/i],
  [[48, 45, 41], /tom/i],
  [[51], /ride/i, /crash|bell|cup/i],
  [[49], /crash|cymbal/i, /ride|choke/i],
];

const listed = <T>(value: T | T[] | undefined): T[] => (value === undefined ? [] : ([value].flat() as T[]));

interface StoredLayer {
  filename: string;
  min?: string;
  max?: string;
}

/** Kits of a folder by name. Drums whose files cannot be decoded here (AIFF) are left out, and kits without any. */
export async function loadKits(folder: string): Promise<Kit[]> {
  const kits: Kit[] = [];
  for (const name of readdirSync(folder).sort()) {
    const kit = await loadKit(name, join(folder, name));
    if (kit && kit.drums.size > 0) kits.push(kit);
  }
  return kits;
}

async function loadKit(name: string, folder: string): Promise<Kit | undefined> {
  const path = join(folder, 'drumkit.xml');
  if (!existsSync(path)) return undefined;
  const parsed = new XMLParser({ parseTagValue: false }).parse(readFileSync(path, 'utf8'));
  const drums: Kit['drums'] = new Map();
  for (const instrument of listed<Record<string, unknown>>(parsed.drumkit_info.instrumentList.instrument)) {
    const called = String(instrument.name);
    const keys = KEYS.find(([, yes, no]) => yes.test(called) && !no?.test(called))?.[0] ?? [];
    const key = keys.find((each) => !drums.has(each));
    if (key === undefined) continue;
    const layered = instrument.instrumentComponent ?? instrument;
    const { layer, filename } = layered as { layer?: StoredLayer | StoredLayer[]; filename?: string };
    const stored = listed(layer ?? (filename ? { filename } : undefined));
    const layers = await Promise.all(stored.map((layer) => readLayer(folder, layer))).catch(unreadable);
    if (layers.length > 0) drums.set(key, layers);
  }
  return { name, drums };
}

async function readLayer(
  folder: string,
  { filename, min = '0', max = '1' }: StoredLayer,
): Promise<Layers[number]> {
  const { samples, sampleRateHz } = await decodeMono(join(folder, filename));
  const resampler = createResampler(sampleRateHz, KIT_RATE_HZ);
  return {
    from: Number(min),
    to: Number(max),
    samples: joined([resampler.push(samples), resampler.finish()]),
  };
}

function unreadable(error: unknown): Layers {
  if (error instanceof AudioFormatError) return [];
  throw error;
}

/** @param notes in order of time; the kit has their keys */
export function playKit({ drums }: Kit, notes: readonly SampledNote[], seconds: number): Float32Array {
  const out = new Float32Array(Math.round(seconds * KIT_RATE_HZ));
  const fadeFrames = Math.round(CHOKE_SECONDS * KIT_RATE_HZ);
  for (const [i, { startSeconds, midi, velocity }] of notes.entries()) {
    const layers = drums.get(midi)!;
    const share = velocity / 128;
    const layer = layers.find(({ from, to }) => share >= from && share < to) ?? layers[0];
    const gain = layers.length > 1 ? (1 + share) / 2 : share ** ONE_LAYER_POWER;
    const first = Math.round(startSeconds * KIT_RATE_HZ);
    const choked = HATS.includes(midi)
      ? notes.slice(i + 1).find((note) => HATS.includes(note.midi) && note.startSeconds > startSeconds)
      : undefined;
    const last = choked ? Math.round(choked.startSeconds * KIT_RATE_HZ) + fadeFrames : out.length;
    const count = Math.min(layer.samples.length, Math.min(last, out.length) - first);
    for (let n = 0; n < count; n++)
      out[first + n] += gain * Math.min(1, (count - n) / fadeFrames) * layer.samples[n];
  }
  return out;
}
