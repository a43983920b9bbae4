/** Files spoiled in every way: each must be taken as far as it goes, or refused with a sentence, and soon. */
import { readFileSync } from 'node:fs';
import {
  AudioFormatError,
  decodeAudio,
  encodeWav,
  MidiFormatError,
  readMidi,
  writeSongMidi,
} from '@plundra/core/formats';
import { createRandom, type Random } from '@plundra/core/signal';
import { createSong, songSchema, type Note, type NotePart } from '@plundra/core/song';

export interface SpoiledFigures {
  kind: string;
  files: number;
  taken: number;
  refused: number;
  /** Anything but a sentence of ours, or contents that no song can hold. */
  faults: string[];
  slowestSeconds: number;
}

const fixture = (name: string) =>
  new Uint8Array(readFileSync(new URL(`../../../server/src/test/fixtures/${name}`, import.meta.url)));

const tone = encodeWav([Float32Array.from({ length: 22050 }, (_, i) => 0.3 * Math.sin(i / 8))], 22050);

function midiFile(): Uint8Array {
  const notes = Array.from({ length: 60 }, (_, i): Note => ({
    id: `n${i}`,
    startTicks: i * 240,
    lengthTicks: 200,
    midi: 40 + (i % 50),
    velocity: 80,
  }));
  const part: NotePart = {
    kind: 'notes',
    id: 'p',
    name: 'Electric piano',
    mark: 'EP',
    colour: 0,
    levelDb: 0,
    pan: 0,
    mute: false,
    solo: false,
    program: 4,
    passages: [{ type: 'notes', id: 'q', startTicks: 0, lengthTicks: 14_400, notes }],
  };
  return writeSongMidi({ ...createSong('s', 'Ferry at Six'), parts: [part] });
}

const KINDS: [string, () => Uint8Array, (bytes: Uint8Array) => Promise<void>][] = [
  ['WAV', () => tone, decode],
  ['FLAC', () => fixture('tone.flac'), decode],
  ['MP3', () => fixture('tone.mp3'), decode],
  ['Ogg', () => fixture('tone.ogg'), decode],
  ['MIDI', midiFile, readSong],
];

export async function measureSpoiled(files: number): Promise<SpoiledFigures[]> {
  const all: SpoiledFigures[] = [];
  for (const [kind, make, read] of KINDS) {
    const random = createRandom(kind.length + 7);
    const whole = make();
    const figures: SpoiledFigures = { kind, files: 0, taken: 0, refused: 0, faults: [], slowestSeconds: 0 };
    for (let i = 0; i < files / KINDS.length; i++) {
      const bytes = spoil(whole, random);
      const started = performance.now();
      figures.files++;
      try {
        await read(bytes);
        figures.taken++;
      } catch (error) {
        const sentence = error instanceof AudioFormatError || error instanceof MidiFormatError;
        if (sentence && /^[A-Z].*\.$/.test(error.message)) figures.refused++;
        else figures.faults.push(String(error).slice(0, 200));
      }
      figures.slowestSeconds = Math.max(figures.slowestSeconds, (performance.now() - started) / 1000);
      if (i % 500 === 0) process.stderr.write('.');
    }
    all.push(figures);
  }
  process.stderr.write('\n');
  return all;
}

async function decode(bytes: Uint8Array): Promise<void> {
  let samples = 0;
  await decodeAudio([bytes], (block) => void (samples += block.channels[0].length));
  if (!Number.isFinite(samples)) throw new Error('samples without number');
}

/** What is taken must be a song. */
async function readSong(bytes: Uint8Array): Promise<void> {
  let next = 0;
  const { title, changed, ...contents } = readMidi(bytes, () => `i${next++}`);
  if (changed.some((sentence) => !sentence.endsWith('.'))) throw new Error('no sentence');
  songSchema.parse({ ...createSong('s', title ?? 'Song'), ...contents });
}

/** Bytes changed, cut off, left out, doubled, or overwritten by others. */
function spoil(whole: Uint8Array, random: Random): Uint8Array {
  let bytes = whole.slice();
  const at = () => Math.floor(random() * bytes.length);
  // Headers are hit as often as all the rest.
  const place = () => (random() < 0.5 ? Math.floor(random() * Math.min(128, bytes.length)) : at());
  for (let times = 1 + Math.floor(random() * 4); times > 0; times--) {
    const way = random();
    if (way < 0.4) for (let k = 0; k < 1 + random() * 20; k++) bytes[place()] = Math.floor(random() * 256);
    else if (way < 0.55) bytes = bytes.slice(0, at());
    else if (way < 0.7) {
      const from = place();
      bytes = Uint8Array.from([
        ...bytes.subarray(0, from),
        ...bytes.subarray(from + Math.floor(random() * 400)),
      ]);
    } else if (way < 0.85) {
      const from = place();
      const piece = bytes.slice(from, from + Math.floor(random() * 400));
      bytes = Uint8Array.from([...bytes.subarray(0, from), ...piece, ...bytes.subarray(from)]);
    } else bytes.fill(random() < 0.5 ? 0 : 255, place(), place());
    if (bytes.length === 0) break;
  }
  return bytes;
}
