/** Where the phrases of a take table end, from the waveforms of its takes. */
import type { QueryClient } from '@tanstack/react-query';
import { phraseBoundaries } from '@plundra/core/reading';
import {
  createPassageTime,
  createTimeMap,
  planPhraseCut,
  takeTableOf,
  type Edit,
  type RecordingPart,
  type RecordingPassage,
  type Song,
} from '@plundra/core/song';
import { waveformAlong } from '../../canvas/waveform.ts';
import { peaksQuery, recordingQuery } from '../queries.ts';

const STEP_SECONDS = 0.01;

/** The edit that cuts all takes of a part where they rest together; undefined where there is no such place, or no table. */
export async function planFoundPhrases(
  song: Song,
  partId: string,
  queries: QueryClient,
  createId: () => string,
): Promise<Edit | undefined> {
  const part = song.parts.find(({ id }) => id === partId) as RecordingPart;
  const time = createTimeMap(song);
  const table = takeTableOf(part, time);
  if (!table) return undefined;
  const places: number[] = [];
  for (const phrase of table.phrases) {
    const from = time.secondsAt(phrase.startTicks);
    const columns = Math.floor((time.secondsAt(phrase.endTicks) - from) / STEP_SECONDS);
    const levels = await Promise.all(
      [...phrase.cells].map(async ([takeId, passages]) => {
        const { recordingHash } = part.takes.find(({ id }) => id === takeId)!;
        const [peaks, { sampleRateHz }] = await Promise.all([
          queries.ensureQueryData(peaksQuery(recordingHash)),
          queries.ensureQueryData(recordingQuery(recordingHash)),
        ]);
        const { toRecorded } = createPassageTime(passages[0] as RecordingPassage, time);
        const pairs = waveformAlong(peaks, sampleRateHz, columns, (column) =>
          toRecorded(from + column * STEP_SECONDS),
        );
        return Float32Array.from({ length: columns }, (_, i) => Math.max(-pairs[2 * i], pairs[2 * i + 1]));
      }),
    );
    for (const seconds of phraseBoundaries({ stepSeconds: STEP_SECONDS, levels }))
      places.push(Math.round(time.ticksAt(from + seconds)));
  }
  return planPhraseCut(song, partId, places, createId);
}
