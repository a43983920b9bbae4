/** What the shelf comes with, written beside the demo songs: recordings as FLAC, and a list that says what they are. */
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { createRandom, gaussian } from '@plundra/core/signal';
import { TICKS_PER_QUARTER } from '@plundra/core/song';
import { keyNamed } from '@plundra/core/theory';
import type { BasicSoundBank } from 'spessasynth_core';
import { encodeFlac } from './flac.ts';
import { DEMO_RATE_HZ } from './performers.ts';
import { renderPart } from './sampler.ts';
import { SHELF, type ShelfPiece } from './shelfScore.ts';
import { normalise } from './singer.ts';

const METRES = { '4/4': [4, 4], '3/4': [3, 4], '6/8': [6, 8] } as const;
/** What rings on after a recording that is no loop. */
const TAIL_SECONDS = 2.5;

export async function writeShelf(bank: BasicSoundBank, folder: URL): Promise<void> {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  const items = [];
  for (const [i, piece] of SHELF.entries()) {
    const slug = piece.name.toLowerCase().replace(/ /g, '-');
    const [beats, unit] = METRES[piece.metre];
    const [tonic, mode] = piece.key?.split(' ') ?? [];
    const facts = {
      id: `shipped-${slug}`,
      name: piece.name,
      kind: piece.kind,
      material: piece.material,
      tags: piece.tags,
      key: tonic ? keyNamed(tonic, mode as 'major' | 'minor')! : null,
      bpm: piece.bpm ?? null,
      metre: { beats, unit },
    };
    if (piece.kind === 'phrase') items.push({ ...facts, ...written(piece, slug) });
    else {
      const file = `${slug}.flac`;
      writeFileSync(new URL(file, folder), await encodeFlac(await played(bank, piece, i), DEMO_RATE_HZ));
      items.push({ ...facts, file });
    }
  }
  writeFileSync(new URL('shelf.json', folder), `${JSON.stringify({ items }, null, 1)}\n`);
  console.log(`shelf: ${items.length} items`);
}

/** Beats of a piece, quarter notes. */
const lengthBeats = ({ metre, bars }: ShelfPiece) => (METRES[metre][0] * 4 * bars) / METRES[metre][1];

function written(piece: ShelfPiece, slug: string) {
  return {
    ...(!piece.drums && { program: piece.program }),
    lengthTicks: lengthBeats(piece) * TICKS_PER_QUARTER,
    notes: piece.notes.map(({ beat, beats, midi, velocity }, i) => ({
      id: `${slug}-${i}`,
      startTicks: Math.round(beat * TICKS_PER_QUARTER),
      lengthTicks: Math.max(1, Math.round(beats * 0.95 * TICKS_PER_QUARTER)),
      midi,
      velocity,
    })),
  };
}

async function played(bank: BasicSoundBank, piece: ShelfPiece, seed: number): Promise<Float32Array> {
  const random = createRandom(8100 + seed);
  const beatSeconds = piece.bpm ? 60 / piece.bpm : 1;
  const roundSeconds = lengthBeats(piece) * beatSeconds;
  const one = piece.notes.map(({ beat, beats, midi, velocity }) => ({
    startSeconds: Math.max(0, beat * beatSeconds + (beat === 0 ? 0 : 0.004 * gaussian(random))),
    endSeconds: (beat + beats * 0.95) * beatSeconds,
    midi,
    velocity: Math.max(20, Math.min(126, Math.round(velocity + 5 * gaussian(random)))),
  }));
  // A loop is what sounds in the second round: the tails of the first go on into it.
  const loops = piece.kind === 'loop';
  const later = one.map((note) => ({
    ...note,
    startSeconds: note.startSeconds + roundSeconds,
    endSeconds: note.endSeconds + roundSeconds,
  }));
  const seconds = loops ? 2 * roundSeconds : roundSeconds + TAIL_SECONDS;
  const part = {
    program: piece.program,
    drums: piece.drums ?? false,
    notes: loops ? [...one, ...later] : one,
  };
  const { left, right } = await renderPart(bank, part, seconds, DEMO_RATE_HZ);
  const from = loops ? Math.round(roundSeconds * DEMO_RATE_HZ) : 0;
  const frames = Math.round((loops ? roundSeconds : seconds) * DEMO_RATE_HZ);
  const samples = Float32Array.from(
    { length: frames },
    (_, n) => ((left[from + n] ?? 0) + (right[from + n] ?? 0)) / 2,
  );
  if (!loops) fadeOut(samples);
  normalise(samples, 0.5);
  return samples;
}

function fadeOut(samples: Float32Array): void {
  const frames = Math.min(samples.length, DEMO_RATE_HZ);
  for (let i = 0; i < frames; i++) samples[samples.length - 1 - i] *= i / frames;
}
