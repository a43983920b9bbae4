/** When each note of a phrase is heard, as whoever plays it sounds. */
import type { Player } from '../clips/players.ts';
import type { PhraseNote } from './phrases.ts';

const RATE = 44100;
const STEP_SECONDS = 0.002;
const ATTACK_DB = -15;
const DECAY_DB = -36;
const RELEASE_DB = -12;
const HELD_SECONDS = 5;

/** Labels say what sounds: from −15 dB of a note's peak until it fell by 36 dB, or by 12 after its release. */
export async function soundingNotes(player: Player, phrase: PhraseNote[], detuneCents: number) {
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
