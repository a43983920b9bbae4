/** A recording with its reading, corrected and written as WAV. */
import { createReadStream } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { decodeWhole, encodeWav } from '@plundra/core/formats';
import { measurePitch, type Contour, type MelodyKind } from '@plundra/core/reading';
import { applyPatches, createRetuner, type CorrectedNote } from '@plundra/core/retune';
import { keyNamed, type Key } from '@plundra/core/theory';
import { readWithProgress } from './readWithProgress.ts';
import { UsageError } from './usage.ts';

export interface OpenRecording {
  channels: Float32Array[];
  sampleRateHz: number;
  contour: Contour;
  /** As played: nothing is corrected yet. */
  notes: CorrectedNote[];
}

export async function openRecording(path: string, kind: MelodyKind): Promise<OpenRecording> {
  const reading = await readWithProgress(path, kind);
  const { samples: channels, sampleRateHz } = await decodeWhole(createReadStream(path));
  return {
    channels,
    sampleRateHz,
    contour: {
      hopSeconds: reading.contour.hopSeconds,
      f0Hz: Float32Array.from(reading.contour.f0Hz),
      confidence: Float32Array.from(reading.contour.confidence),
    },
    notes: reading.notes.map((note, i) => unchangedNote(String(i), note)),
  };
}

export function unchangedNote(
  id: string,
  note: { startSeconds: number; endSeconds: number; midi: number; confidence: number },
): CorrectedNote {
  return {
    id,
    startSeconds: note.startSeconds,
    endSeconds: note.endSeconds,
    midi: note.midi,
    confidence: note.confidence,
    toMidi: note.midi,
    toStartSeconds: note.startSeconds,
    toEndSeconds: note.endSeconds,
    vibratoKept: 1,
    driftKept: 1,
  };
}

/** Pitch that the contour has in a stretch; undefined where nothing is voiced. */
export const pitchOf = (recording: OpenRecording, startSeconds: number, endSeconds: number) =>
  measurePitch(recording.contour, startSeconds, endSeconds);

/** Renders the notes and writes the result, 32-bit float, so that what was not touched stays exact. */
export async function writeCorrected(
  recording: OpenRecording,
  notes: CorrectedNote[],
  path: string,
): Promise<void> {
  const { channels, sampleRateHz, contour } = recording;
  const { patches, limited } = createRetuner(channels, sampleRateHz, contour).render(notes);
  await writeFile(path, encodeWav(applyPatches(channels, patches), sampleRateHz, 'float'));
  if (limited.length > 0)
    process.stderr.write(
      `${limited.length} of ${notes.length} notes could not go where they should: a note keeps 50 to 200 % of its length and its place in the order.\n`,
    );
}

/** "G:major", "F#:minor". */
export function parseKey(text: string | undefined): Key | undefined {
  if (text === undefined) return undefined;
  const [tonic, mode] = text.split(':');
  const key = mode === 'major' || mode === 'minor' ? keyNamed(tonic, mode) : undefined;
  if (!key) throw new UsageError(`--key is written like G:major or F#:minor, not “${text}”.`);
  return key;
}
