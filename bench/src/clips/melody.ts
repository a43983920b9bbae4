/** Melodies for clips: random walks over a scale with rhythm, rests, repeated notes and human timing. */
import { gaussian, type Random } from '@plundra/core/signal';

export interface ClipNote {
  startSeconds: number;
  endSeconds: number;
  midi: number;
  /** 0–1 */
  loudness: number;
  /** Follows the note before without a gap. */
  legato: boolean;
  /** Where it would start without human timing, and the beat it is counted in. */
  gridSeconds: number;
  beatSeconds: number;
}

export interface MelodyPlan {
  lowMidi: number;
  highMidi: number;
  durationSeconds: number;
  /** Chance that a note is joined to the one before. */
  legato: number;
  /** Standard deviation of starts and ends. */
  timingSeconds: number;
  /** Shortest note value in beats. */
  shortestBeats: number;
  /** Beats last so many times as long; 1 if not given. */
  slowness?: number;
}

const SCALE = [0, 2, 4, 5, 7, 9, 11];

export function composeMelody(plan: MelodyPlan, random: Random): ClipNote[] {
  const pick = <T>(items: T[]): T => items[Math.floor(random() * items.length)];
  const beatSeconds = ((plan.slowness ?? 1) * 60) / (76 + 60 * random());
  const tonic = Math.floor(random() * 12);
  const pitches: number[] = [];
  for (let midi = plan.lowMidi; midi <= plan.highMidi; midi++) {
    if (SCALE.includes((((midi - tonic) % 12) + 12) % 12)) pitches.push(midi);
  }
  let index = Math.floor(pitches.length * (0.3 + 0.4 * random()));
  const notes: ClipNote[] = [];
  let at = 0.35 + 0.3 * random();
  const lengths = [0.25, 0.5, 0.5, 0.5, 1, 1, 1, 1.5, 2, 3].filter((beats) => beats >= plan.shortestBeats);
  while (true) {
    const beats = pick(lengths);
    const length = beats * beatSeconds;
    if (at + length > plan.durationSeconds - 0.5) break;
    const rest = random() < 0.12;
    if (!rest) {
      const step = random() < 0.16 ? 0 : random() < 0.75 ? pick([-1, 1, -2, 2]) : pick([-4, -3, 3, 4, 7, -7]);
      index = Math.min(pitches.length - 1, Math.max(0, index + step));
      const previous = notes[notes.length - 1];
      const touches = previous !== undefined && at - previous.endSeconds < 0.12;
      const same = previous?.midi === pitches[index];
      const legato = touches && !same && random() < plan.legato;
      const startSeconds = Math.max(
        at + gaussian(random) * plan.timingSeconds,
        (previous?.startSeconds ?? 0) + 0.09,
      );
      if (legato) previous.endSeconds = startSeconds;
      else if (previous) previous.endSeconds = Math.min(previous.endSeconds, startSeconds - 0.02);
      const sounding = length * (0.72 + 0.24 * random());
      notes.push({
        startSeconds,
        endSeconds: startSeconds + Math.max(0.08, sounding),
        midi: pitches[index],
        loudness: 0.45 + 0.5 * random(),
        legato,
        gridSeconds: at,
        beatSeconds,
      });
    }
    at += length;
  }
  return notes;
}
