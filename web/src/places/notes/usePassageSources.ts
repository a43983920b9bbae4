/** What lies under the notes of a part: contours, waveforms and facts of all recordings that its passages show. */
import { useMemo } from 'react';
import { useQueries } from '@tanstack/react-query';
import type { Contour } from '@plundra/core/reading';
import { createPassageTime, melodyLineOf, type PlacedRecording, type TimeMap } from '@plundra/core/song';
import { placedOwnChords } from '../../canvas/chordRow.ts';
import { contourOf, readingQuery } from '../../song/queries.ts';
import { useRecordings } from '../../song/useRecording.ts';
import type { SceneRecording } from './lineScene.ts';

/** The contour behind the line of a passage; undefined where there is none, or not yet. */
export type Contours = (passage: PlacedRecording) => Contour | undefined;

const unique = (names: readonly string[]) => [...new Set(names)];

/** `passages` must be the same array as long as nothing changes in it. */
export function useContours(passages: readonly PlacedRecording[]): Contours {
  const readingIds = useMemo(
    () => unique(passages.flatMap((passage) => melodyLineOf(passage)?.readingId ?? [])),
    [passages],
  );
  const found = useQueries({
    queries: readingIds.map((id) => ({ ...readingQuery(id), select: contourOf })),
    combine: combined,
  });
  return useMemo(() => {
    const byReading = new Map(readingIds.map((id, i) => [id, found[i] as Contour | undefined]));
    return (passage) => {
      const melody = melodyLineOf(passage);
      return melody ? byReading.get(melody.readingId) : undefined;
    };
  }, [readingIds, found]);
}

const combined = <T>(results: readonly { data: T | undefined }[]): (T | undefined)[] =>
  results.map(({ data }) => data);

/** Null where nothing was recorded. */
export function useSceneRecordings(
  passages: readonly PlacedRecording[],
  contours: Contours,
  time: TimeMap,
): readonly SceneRecording[] | null {
  const hashes = useMemo(() => unique(passages.map(({ recordingHash }) => recordingHash)), [passages]);
  const { known } = useRecordings(hashes);
  return useMemo(
    () =>
      lastScenes.show(
        passages.map((passage) => {
          const { recording, peaks } = known(passage.recordingHash);
          return [passage, peaks, recording?.sampleRateHz ?? 44100, contours(passage), time];
        }),
      ),
    [passages, known, contours, time],
  );
}

type Source = [
  passage: PlacedRecording,
  peaks: SceneRecording['peaks'],
  sampleRateHz: number,
  contour: Contour | undefined,
  time: TimeMap,
];

function sceneOf([passage, peaks, sampleRateHz, contour, time]: Source): SceneRecording {
  const { offsetSeconds, durationSeconds } = passage;
  const { toSong, toRecorded } = createPassageTime(passage, time);
  return {
    passageId: passage.id,
    peaks,
    sampleRateHz,
    durationSeconds,
    contour,
    toSong,
    toRecorded,
    fromSeconds: offsetSeconds,
    toSeconds: offsetSeconds + durationSeconds,
    ownChords: placedOwnChords(passage.chords, passage, toSong),
  };
}

/** What lies under the notes does not change with them: as long as nothing of it does, it is the same array. */
class LastScenes {
  private sources: readonly Source[] = [];
  private scenes: readonly SceneRecording[] = [];

  show(sources: readonly Source[]): readonly SceneRecording[] | null {
    const same =
      sources.length === this.sources.length && sources.every((each, i) => looksAlike(each, this.sources[i]));
    if (!same) this.scenes = sources.map(sceneOf);
    this.sources = sources;
    return this.scenes.length > 0 ? this.scenes : null;
  }
}

function looksAlike(a: Source, b: Source): boolean {
  const [passage, ...more] = a;
  const [last, ...others] = b;
  return (
    passage.id === last.id &&
    passage.startTicks === last.startTicks &&
    passage.offsetSeconds === last.offsetSeconds &&
    passage.durationSeconds === last.durationSeconds &&
    passage.clock === last.clock &&
    passage.chords === last.chords &&
    more.every((each, i) => each === others[i])
  );
}

const lastScenes = new LastScenes();
