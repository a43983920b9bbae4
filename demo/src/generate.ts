/**
 * Generates the demo songs with their recordings into demo/data and the shipped instruments into
 * web/public/sounds. Seeded: the same sources give the same files. Run by `npm run demo:generate`.
 */
import { createHash } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import {
  createSong,
  TICKS_PER_QUARTER,
  type NotePart,
  type RecordingPart,
  type Song,
  markOf,
  wholeRecording,
} from '@plundra/core/song';
import { arrangeFerry } from './arrange.ts';
import { encodeFlac } from './flac.ts';
import { DEMO_RATE_HZ, playBass, playHands, playKeys, playLine, playStrums, singPart } from './performers.ts';
import { loadBank } from './sampler.ts';
import { FERRY, KETTLE, type ScoreNote } from './score.ts';
import { writeShelf } from './shelf.ts';
import { writeShippedBank } from './soundBank.ts';

const data = new URL('../data/', import.meta.url);
mkdirSync(data, { recursive: true });
const bank = await loadBank('FluidR3Mono_GM');

async function recordingPart(
  songId: string,
  file: string,
  name: string,
  material: RecordingPart['material'],
  colour: number,
  samples: Float32Array,
  levelDb = 0,
  pan = 0,
): Promise<RecordingPart> {
  const bytes = await encodeFlac(samples, DEMO_RATE_HZ);
  writeFileSync(new URL(`${file}.flac`, data), bytes);
  console.log(`${file}.flac: ${(bytes.length / 1e6).toFixed(2)} MB`);
  return {
    kind: 'recording',
    id: `${songId}-${file}`,
    name,
    mark: markOf(name),
    colour,
    levelDb,
    pan,
    mute: false,
    solo: false,
    material,
    ...wholeRecording(
      {
        hash: createHash('sha256').update(bytes).digest('hex'),
        durationSeconds: samples.length / DEMO_RATE_HZ,
      },
      0,
      () => `${songId}-${file}-passage`,
    ),
  };
}

function notePart(
  songId: string,
  slug: string,
  name: string,
  program: number,
  colour: number,
  notes: ScoreNote[],
): NotePart {
  const placed = notes.map((note, i) => ({
    id: `${slug}-${i}`,
    startTicks: Math.round(note.beat * TICKS_PER_QUARTER),
    lengthTicks: Math.round(note.beats * TICKS_PER_QUARTER * 0.94),
    midi: note.midi,
    velocity: 88,
  }));
  const end = Math.max(...placed.map((note) => note.startTicks + note.lengthTicks));
  return {
    kind: 'notes',
    id: `${songId}-${slug}`,
    name,
    mark: markOf(name),
    colour,
    levelDb: -6,
    pan: 0.25,
    mute: false,
    solo: false,
    program,
    passages: [
      { type: 'notes', id: `${songId}-${slug}-passage`, startTicks: 0, lengthTicks: end, notes: placed },
    ],
  };
}

const altoVoice = { tract: 1.02, breath: 0.06, driftCents: 7 };
const tenorVoice = { tract: 0.94, breath: 0.08, driftCents: 9 };
const sharpHighUp = (midi: number, random: () => number) => Math.max(0, midi - 72) * 3.2 + 6 * random();

const ferryId = 'demo-ferry-at-six';
const ferry: Song = {
  ...createSong(ferryId, 'Ferry at Six'),
  key: { fifths: 1, mode: 'major' },
  tempoMap: [{ startTicks: 0, bpm: FERRY.bpm }],
  parts: [
    await recordingPart(
      ferryId,
      'ferry-lead-voice',
      'Lead voice',
      'voice',
      0,
      singPart(
        FERRY,
        FERRY.lead,
        altoVoice,
        { lateSeconds: 0, flatCents: 0, vibratoCents: 38, cracks: 0.3 },
        11,
      ),
    ),
    await recordingPart(
      ferryId,
      'ferry-backing-voice',
      'Backing voice',
      'voice',
      1,
      singPart(
        FERRY,
        FERRY.backing,
        tenorVoice,
        { lateSeconds: 0.055, flatCents: 24, vibratoCents: 18, cracks: 0 },
        23,
      ),
      -5,
      -0.3,
    ),
    await recordingPart(
      ferryId,
      'ferry-lead-guitar',
      'Lead guitar',
      'guitar',
      2,
      await playLine(bank, 27, FERRY, FERRY.guitarLine, sharpHighUp, 31),
      -5,
      0.25,
    ),
    notePart(ferryId, 'synth-line', 'Synth line', 89, 3, FERRY.guitarLine),
    await recordingPart(
      ferryId,
      'ferry-steel-guitar',
      'Steel guitar',
      'guitar',
      4,
      await playStrums(bank, 25, FERRY, 41),
      -9,
      -0.2,
    ),
    await recordingPart(
      ferryId,
      'ferry-electric-piano',
      'Electric piano',
      'keys',
      5,
      await playKeys(bank, 4, FERRY, 43),
      -10,
      0.15,
    ),
    await recordingPart(ferryId, 'ferry-bass', 'Bass', 'bass', 6, await playBass(bank, 33, FERRY, 47), -6, 0),
    await recordingPart(
      ferryId,
      'ferry-hand-drum',
      'Hand drum',
      'drums',
      7,
      await playHands(bank, FERRY, 53),
      -9,
      0.1,
    ),
  ],
};

const kettleId = 'demo-kettle-waltz';
const kettle: Song = {
  ...createSong(kettleId, 'Kettle Waltz'),
  key: { fifths: -1, mode: 'minor' },
  tempoMap: [{ startTicks: 0, bpm: KETTLE.bpm }],
  metreMap: [{ startTicks: 0, beats: 3, unit: 4 }],
  parts: [
    await recordingPart(
      kettleId,
      'kettle-voice',
      'Voice',
      'voice',
      0,
      singPart(
        KETTLE,
        KETTLE.lead,
        altoVoice,
        { lateSeconds: 0.01, flatCents: 5, vibratoCents: 45, cracks: 0.1 },
        61,
      ),
    ),
    await recordingPart(
      kettleId,
      'kettle-keyboard',
      'Keyboard',
      'keys',
      5,
      await playKeys(bank, 0, KETTLE, 67),
      -8,
    ),
  ],
};
writeFileSync(new URL('songs.json', data), `${JSON.stringify([arrangeFerry(ferry), kettle], null, 1)}\n`);
await writeShelf(bank, new URL('shelf/', data));
const bankBytes = await writeShippedBank(new URL('../../web/public/sounds/', import.meta.url));
console.log(`instruments.sf3: ${(bankBytes / 1e6).toFixed(2)} MB`);
