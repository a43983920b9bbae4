/** What can be seen of a take while it is recorded: its waveform and what is sung, on the time of the song. */
import { createLivePitch, VOICE_RANGE } from '@plundra/core/reading';

const COLUMN_SECONDS = 0.01;

export interface LiveTake {
  /** How loud each hundredth of a second was, 0–1, from the first sample on. */
  peaks: number[];
  /** In order of time. */
  pitches: { seconds: number; midi: number }[];
  lowestMidi: number;
  highestMidi: number;
  columnSeconds: number;
  /** Second of the recording that was heard where it began in the song; undefined until that is known. */
  startSeconds: number | undefined;
}

export function createLiveTake(sampleRateHz: number) {
  const pitch = createLivePitch(sampleRateHz, VOICE_RANGE);
  const columnFrames = Math.round(COLUMN_SECONDS * sampleRateHz);
  const take: LiveTake = {
    peaks: [],
    pitches: [],
    lowestMidi: Infinity,
    highestMidi: -Infinity,
    columnSeconds: columnFrames / sampleRateHz,
    startSeconds: undefined,
  };
  let frames = 0;
  return {
    take,
    add(samples: Float32Array): void {
      for (const value of samples) {
        const column = Math.floor(frames++ / columnFrames);
        take.peaks[column] = Math.max(take.peaks[column] ?? 0, Math.abs(value));
      }
      for (const { seconds, midi } of pitch.push(samples))
        if (midi !== undefined) {
          take.pitches.push({ seconds, midi });
          take.lowestMidi = Math.min(take.lowestMidi, midi);
          take.highestMidi = Math.max(take.highestMidi, midi);
        }
    },
  };
}
