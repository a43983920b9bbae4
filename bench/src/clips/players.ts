/** What plays the melody of an instrument clip: a sound bank, or notes recorded one by one. */
import { renderPart, type Bend, type SampledPart } from '@plundra/demo';
import type { BasicSoundBank } from 'spessasynth_core';
import { TRUTH_HOP_SECONDS } from './clip.ts';
import type { ClipNote } from './melody.ts';
import type { RecordedNote } from './recordedNotes.ts';

export type PlayedNote = Pick<ClipNote, 'startSeconds' | 'endSeconds' | 'midi' | 'loudness'>;

export interface Player {
  /** Plays notes with a bend in semitones every {@link TRUTH_HOP_SECONDS}; mono. */
  play(notes: PlayedNote[], bends: number[], durationSeconds: number, rate: number): Promise<Float32Array>;
  /** How one note alone sounds. */
  alone(midi: number, lengthSeconds: number, rate: number): Promise<Float32Array>;
  /** Distinguishes players in caches. */
  name: string;
}

const velocity = (note: PlayedNote) => Math.round(40 + 80 * note.loudness);

export function bankPlayer(bank: BasicSoundBank, program: number): Player {
  const render = async (part: SampledPart, seconds: number, rate: number) => {
    const { left, right } = await renderPart(bank, part, seconds, rate);
    return left.map((value, i) => (value + right[i]) / 2);
  };
  return {
    name: `${bank.soundBankInfo.name}/${program}`,
    play: (notes, bends, durationSeconds, rate) =>
      render(
        {
          program,
          notes: notes.map((note) => ({
            startSeconds: note.startSeconds,
            endSeconds: note.endSeconds,
            midi: note.midi,
            velocity: velocity(note),
          })),
          bends: bends.map((semitones, i) => ({
            timeSeconds: i * TRUTH_HOP_SECONDS,
            semitones,
          })) satisfies Bend[],
        },
        durationSeconds,
        rate,
      ),
    alone: (midi, lengthSeconds, rate) =>
      render(
        { program, notes: [{ startSeconds: 0, endSeconds: lengthSeconds, midi, velocity: 90 }] },
        lengthSeconds + 0.4,
        rate,
      ),
  };
}

export interface Damping {
  /** Time constant with which a released note dies away. */
  releaseSeconds?: number;
  /** By so much a second middle C dies away beside what is recorded; two octaves up by twice as much. */
  decayDb?: number;
}

/** Plays the nearest recorded note at another speed; its own vibrato, noises and decay stay. */
export function recordedPlayer(
  name: string,
  recorded: Pick<RecordedNote, 'midi' | 'sampleRateHz' | 'samples'>[],
  { releaseSeconds = 0.03, decayDb = 0 }: Damping = {},
): Player {
  const add = (
    out: Float32Array,
    rate: number,
    note: Pick<ClipNote, 'startSeconds' | 'endSeconds' | 'midi'>,
    gain: number,
    bend: (seconds: number) => number,
  ) => {
    const source = recorded.reduce((best, each) =>
      Math.abs(each.midi - note.midi) < Math.abs(best.midi - note.midi) ? each : best,
    );
    let at = 0;
    let level = gain;
    const released = Math.exp(-1 / (releaseSeconds * rate));
    const decaying = 10 ** ((-decayDb * 2 ** ((note.midi - 60) / 24)) / 20 / rate);
    for (let i = Math.round(note.startSeconds * rate); i < out.length; i++) {
      const seconds = i / rate;
      level *= seconds > note.endSeconds ? released : decaying;
      if (level < 1e-4 || at + 3 >= source.samples.length) break;
      out[i] += level * cubic(source.samples, at);
      at += (2 ** ((note.midi + bend(seconds) - source.midi) / 12) * source.sampleRateHz) / rate;
    }
  };
  return {
    name: `recorded/${name}`,
    play(notes, bends, durationSeconds, rate) {
      const out = new Float32Array(Math.ceil(durationSeconds * rate));
      notes.forEach((note) =>
        add(out, rate, note, (velocity(note) / 120) ** 2, (seconds) => {
          const place = seconds / TRUTH_HOP_SECONDS;
          const low = Math.min(bends.length - 2, Math.floor(place));
          return bends[low] + (bends[low + 1] - bends[low]) * (place - low);
        }),
      );
      return Promise.resolve(out);
    },
    alone(midi, lengthSeconds, rate) {
      const out = new Float32Array(Math.ceil((lengthSeconds + 0.4) * rate));
      add(out, rate, { startSeconds: 0, endSeconds: lengthSeconds, midi }, 1, () => 0);
      return Promise.resolve(out);
    },
  };
}

/** Third-order interpolation (Catmull–Rom). */
function cubic(samples: Float32Array, at: number): number {
  const i = Math.floor(at);
  const t = at - i;
  const [a, b, c, d] = [samples[i - 1] ?? 0, samples[i], samples[i + 1], samples[i + 2]];
  return b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)));
}
