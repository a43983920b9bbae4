/**
 * Chordal playing in which notes die away in many ways, to learn from where they end: plucked strings, keys and bars of the open banks,
 * let go slowly or at once, dying faster than they would, brighter or duller. The sets that figures are given for do not draw from here.
 */
import { createRandom } from '@plundra/core/signal';
import { loadBank } from '@plundra/demo';
import { bankPlayer, recordedPlayer, type Player } from '../clips/players.ts';
import { DETUNED_CENTS, makeClip, type ChordalClip } from './clips.ts';

/** General MIDI programs. */
const PLUCKED = [24, 25, 26, 27, 28, 15, 45, 46, 104, 105, 106, 107];
const KEYS = [0, 1, 2, 3, 4, 5, 6, 7, 8, 11, 12, 16, 19, 21, 48];
const RATE = 44100;
/** Notes of each program are rendered this far apart and so long. */
const APART_SEMITONES = 4;
const [LOWEST, HIGHEST] = [36, 92];
const HELD_SECONDS = 5.2;
/** What is softer than this from the start on does not sound on that key. */
const LEAST = 1e-5;
const EDGE_HZ = 700;

/** Clips of every program of a bank. @param seed other clips for another */
export async function* dampedClips(
  bankName: Parameters<typeof loadBank>[0],
  clipsEach: number,
  seed: number,
): AsyncGenerator<ChordalClip> {
  const bank = await loadBank(bankName);
  const programs = [
    ...PLUCKED.map((program) => ({ program, group: 'guitars' as const })),
    ...KEYS.map((program) => ({ program, group: 'keys' as const })),
  ];
  for (const { program, group } of programs) {
    const random = createRandom(seed * 1000 + program + (group === 'keys' ? 500 : 0));
    const player = bankPlayer(bank, program);
    const recorded = await renderNotes(player, random() < 0.5 ? 60 : 100);
    for (let i = 0; i < clipsEach; i++) {
      const gainDb = random() < 0.5 ? 0 : 24 * (random() - 0.5);
      const damped = recordedPlayer(
        `${player.name}/${seed}/${i}`,
        recorded.map((note) => ({ ...note, samples: shelved(note.samples, gainDb) })),
        { releaseSeconds: 0.008 * 15 ** random(), decayDb: random() < 0.5 ? 0 : 25 * random() },
      );
      const detuneCents = random() < 0.3 ? 2 * DETUNED_CENTS * (random() - 0.5) : 0;
      yield makeClip({ name: player.name, group, player: damped }, random, {
        detuneCents,
        lively: random() < 0.6,
        loose: random() < 0.6,
      });
    }
  }
}

async function renderNotes(player: Player, velocity: number) {
  const recorded = [];
  for (let midi = LOWEST; midi <= HIGHEST; midi += APART_SEMITONES) {
    const samples = await player.play(
      [{ startSeconds: 0, endSeconds: HELD_SECONDS, midi, loudness: (velocity - 40) / 80 }],
      new Array<number>(HELD_SECONDS * 100).fill(0),
      HELD_SECONDS,
      RATE,
    );
    const top = samples.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
    if (top > LEAST)
      recorded.push({ midi, sampleRateHz: RATE, samples: samples.map((value) => (0.5 * value) / top) });
  }
  return recorded;
}

/** What lies above {@link EDGE_HZ} louder by so many decibels. */
function shelved(samples: Float32Array, gainDb: number): Float32Array {
  const gain = 10 ** (gainDb / 20);
  const share = 1 - Math.exp((-2 * Math.PI * EDGE_HZ) / RATE);
  let low = 0;
  return samples.map((value) => {
    low += share * (value - low);
    return low + gain * (value - low);
  });
}
