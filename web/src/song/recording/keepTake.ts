/** From a take on the server to takes of a part: recordings are made of it, and one edit puts them into the song. */
import type { QueryClient } from '@tanstack/react-query';
import type { Recording, UnfinishedTake } from '@plundra/contract';
import {
  applyEdit,
  planAddTakes,
  takeNames,
  takeTableOf,
  createTimeMap,
  type Edit,
  type RecordingPart,
  type SimpleEdit,
  type Song,
} from '@plundra/core/song';
import { api } from '../../api/client.ts';
import { emptyRecordingPart } from '../newParts.ts';
import type { SongSession } from '../songSession.ts';
import { planFoundPhrases } from './findPhrases.ts';
import { takePieces, type TakePieces } from './takePieces.ts';

/** What was recorded, as it is on the server. */
export type StoredTake = Omit<UnfinishedTake, 'idleSeconds'>;

export interface KeptTake {
  label: string;
  edit: Edit;
  partId: string;
  takes: number;
}

/**
 * The edit that puts a take into the song; undefined where nothing was recorded that could be meant.
 * Rejects where the server cannot make recordings of it; it has the take then as before.
 */
export async function planKeptTake(
  session: SongSession,
  take: StoredTake,
  queries: QueryClient,
): Promise<KeptTake | undefined> {
  const found = takePieces(take);
  if (found.pieces.length === 0) return undefined;
  const names = namesOf(session.getState().song, take, found.pieces.length);
  const recordings = await api.keepTake(
    take.id,
    found.pieces.map(({ fromFrame, toFrame }, i) => ({
      fromFrame,
      toFrame,
      name: `${take.name} ${names[i].toLowerCase()}.wav`,
    })),
  );
  const { song } = session.getState();
  const kept = takesEdit(song, take, found, recordings, names, () => crypto.randomUUID());
  // A table of one phrase is cut where its takes rest.
  const after = applyEdit(song, kept.edit).song;
  const part = after.parts.find(({ id }) => id === kept.partId) as RecordingPart;
  const table = takeTableOf(part, createTimeMap(after));
  if (table?.phrases.length !== 1) return kept;
  const cuts = await planFoundPhrases(after, kept.partId, queries, () => crypto.randomUUID()).catch(
    // A waveform that cannot be fetched now: phrases can be found later.
    () => undefined,
  );
  return cuts ? { ...kept, edit: { type: 'batch', edits: [...editsOf(kept.edit), ...editsOf(cuts)] } } : kept;
}

const editsOf = (edit: Edit): SimpleEdit[] => (edit.type === 'batch' ? edit.edits : [edit]);

const partOf = (song: Song, partId: string | null): RecordingPart | undefined => {
  const part = song.parts.find(({ id }) => id === partId);
  return part?.kind === 'recording' ? part : undefined;
};

const namesOf = (song: Song, { partId }: StoredTake, count: number): string[] =>
  takeNames(partOf(song, partId) ?? { takes: [] }, count);

/** Pure: takes of a part that is there, or of a new one where it is not (any more). */
export function takesEdit(
  song: Song,
  take: StoredTake,
  { pieces, heard }: TakePieces,
  recordings: readonly Recording[],
  names: readonly string[],
  createId: () => string,
): KeptTake {
  const existing = partOf(song, take.partId);
  const part = existing ?? emptyRecordingPart(song, take.name, createId);
  const first: SimpleEdit[] = existing ? [] : [{ type: 'part.add', part, index: song.parts.length }];
  const withPart = first.reduce((now, edit) => applyEdit(now, edit).song, song);
  const single = !existing && pieces.length === 1;
  const added = planAddTakes(
    withPart,
    part.id,
    pieces.map(({ offsetSeconds, durationSeconds }, i) => ({
      take: {
        id: createId(),
        recordingHash: recordings[i].hash,
        line: null,
        // The only take of a part needs no number.
        ...(!single && { name: names[i] }),
      },
      startTicks: take.startTicks,
      offsetSeconds,
      durationSeconds,
    })),
    createId,
    heard,
  );
  const what = single
    ? part.name
    : `${names.length === 1 ? names[0].toLowerCase() : `${names.length} takes`} of ${part.name}`;
  return {
    label: `Record ${what}`.slice(0, 200),
    edit: { type: 'batch', edits: [...first, ...editsOf(added)] },
    partId: part.id,
    takes: existing ? existing.takes.length + pieces.length : pieces.length,
  };
}

/** Resolves when everything that was done until now is on the server. */
export function whenSaved(session: SongSession): Promise<void> {
  return new Promise((resolve) => {
    const look = () => {
      if (session.getSaving().saveState !== 'saved') return;
      unsubscribe();
      resolve();
    };
    const unsubscribe = session.subscribe(look);
    look();
  });
}
