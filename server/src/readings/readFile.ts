/** Reads the melody or the onsets of a sound file, with the numbers rounded to what they are worth, ready for JSON. */
import type { MelodyResult, OnsetsResult } from '@plundra/contract';
import {
  createMelodyReader,
  createOnsetReader,
  type MelodyKind,
  type MelodyReader,
  type OnsetReader,
} from '@plundra/core/reading';
import { decodeFile } from '../recordings/soundFile.ts';

export async function readMelodyFile(
  path: string,
  kind: MelodyKind,
  onProgress?: (share: number) => void,
): Promise<MelodyResult> {
  let reader: MelodyReader | undefined;
  await decodeFile(
    path,
    (mono, sampleRateHz) => {
      reader ??= createMelodyReader(sampleRateHz, kind);
      reader.push(mono);
    },
    onProgress,
  );
  const reading = reader!.finish();
  return {
    kind: reading.kind,
    tuningCents: reading.tuningCents,
    contour: {
      hopSeconds: reading.contour.hopSeconds,
      // A hundredth of a hertz is 0.4 cents at the lowest note.
      f0Hz: Array.from(reading.contour.f0Hz, (value) => round(value, 2)),
      confidence: Array.from(reading.contour.confidence, (value) => round(value, 2)),
    },
    notes: reading.notes.map((note) => ({
      startSeconds: round(note.startSeconds, 4),
      endSeconds: round(note.endSeconds, 4),
      midi: round(note.midi, 3),
      velocity: note.velocity,
      confidence: round(note.confidence, 3),
    })),
  };
}

export async function readOnsetsFile(
  path: string,
  onProgress?: (share: number) => void,
): Promise<OnsetsResult> {
  let reader: OnsetReader | undefined;
  await decodeFile(
    path,
    (mono, sampleRateHz) => {
      reader ??= createOnsetReader(sampleRateHz);
      reader.push(mono);
    },
    onProgress,
  );
  return {
    onsets: reader!.finish().map(({ seconds, salience }) => ({
      seconds: round(seconds, 4),
      salience: round(salience, 3),
    })),
  };
}

function round(value: number, digits: number): number {
  const factor = 10 ** digits;
  return Math.round(value * factor) / factor;
}
