/** Calls to the server: every answer is checked against the contract, every error is a sentence. */
import type { z } from 'zod';
import {
  backupListSchema,
  backupSongsSchema,
  binSchema,
  demoResponseSchema,
  errorBodySchema,
  faultListSchema,
  healthSchema,
  historyEntrySchema,
  FILE_NAME_HEADER,
  chordsResultSchema,
  hitsResultSchema,
  materialResultSchema,
  melodyResultSchema,
  notesResultSchema,
  onsetsResultSchema,
  midiImportResponseSchema,
  paths,
  readingListSchema,
  readingStatusSchema,
  recordingSchema,
  revisionSchema,
  songDocumentSchema,
  keptTakeSchema,
  takeFramesSchema,
  unfinishedTakeListSchema,
  unfinishedTakeSchema,
  phraseSchema,
  shelfListSchema,
  songListSchema,
  stepsResponseSchema,
  type AddToShelf,
  type ChangeShelfItem,
  type FaultReport,
  type ReadingRequest,
  type Recording,
  type KeepTakeRequest,
  type StepsRequest,
  type TakeBeginning,
} from '@plundra/contract';
import { shelfItemSchema } from '@plundra/core/shelf';
import { decodePeaks, type PeakLevel } from '@plundra/core/signal';
import { ApiError } from './apiError.ts';

const UNREACHABLE =
  'The server cannot be reached. Your changes are kept in this window and saved as soon as it is back.';

const NOT_UNDERSTOOD = 'The server gave an answer that was not understood. Reload the page and try again.';

async function request(path: string, init?: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(path, init);
  } catch {
    throw new ApiError(0, 'unreachable', UNREACHABLE);
  }
  if (response.ok) return response;
  throw await errorOf(response.status, await response.text());
}

async function errorOf(status: number, text: string): Promise<ApiError> {
  try {
    const { error } = errorBodySchema.parse(JSON.parse(text));
    return new ApiError(status, error.code, error.message, error.details);
  } catch {
    return status === 502 || status === 504
      ? new ApiError(0, 'unreachable', UNREACHABLE)
      : new ApiError(status, 'unexpected', NOT_UNDERSTOOD);
  }
}

async function getJson<T>(path: string, schema: z.ZodType<T>, init?: RequestInit): Promise<T> {
  const parsed = schema.safeParse(await (await request(path, init)).json());
  if (parsed.success) return parsed.data;
  throw new ApiError(200, 'unexpected', NOT_UNDERSTOOD);
}

function post(body?: unknown): RequestInit {
  return {
    method: 'POST',
    ...(body !== undefined && {
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body),
    }),
  };
}

export const api = {
  songs: () => getJson(paths.songs, songListSchema).then(({ songs }) => songs),
  /** `asked`: ids of requests; the answer says which of them are in the song. */
  song: (id: string, asked: readonly string[] = []) =>
    getJson(paths.song(id) + (asked.length > 0 ? `?asked=${asked.join(',')}` : ''), songDocumentSchema),
  songRevision: (id: string) =>
    getJson(paths.songRevision(id), revisionSchema).then(({ revision }) => revision),
  historyEntry: (id: string, entryId: string) => getJson(paths.songHistory(id, entryId), historyEntrySchema),
  recoverSong: (id: string) => getJson(paths.songRecovered(id), songDocumentSchema, post()),
  bin: () => getJson(paths.bin, binSchema).then(({ songs }) => songs),
  removeForGood: (id: string) => request(paths.binnedSong(id), { method: 'DELETE' }),
  backups: () => getJson(paths.backups, backupListSchema).then(({ backups }) => backups),
  backupSongs: (name: string) =>
    getJson(paths.backupSongs(name), backupSongsSchema).then(({ songs }) => songs),
  restoreFromBackup: (name: string, songId: string) =>
    getJson(paths.backupRestore(name), songDocumentSchema, post({ songId })),
  health: () => getJson(paths.health, healthSchema),
  faults: () => getJson(paths.faults, faultListSchema).then(({ faults }) => faults),
  createSong: (title: string) => getJson(paths.songs, songDocumentSchema, post({ title })),
  copySong: (id: string) => getJson(paths.songCopy(id), songDocumentSchema, post()),
  removeSong: (id: string) => request(paths.song(id), { method: 'DELETE' }),
  restoreSong: (id: string) => request(paths.songRestore(id), post()),
  openDemo: () => getJson(paths.demo, demoResponseSchema, post()).then(({ songIds }) => songIds),
  importMidi: (file: File) =>
    getJson(paths.midiImport, midiImportResponseSchema, {
      method: 'POST',
      headers: { 'Content-Type': 'audio/midi', [FILE_NAME_HEADER]: encodeURIComponent(file.name) },
      body: file,
    }),
  sendSteps: (songId: string, steps: StepsRequest) =>
    getJson(paths.songSteps(songId), stepsResponseSchema, post(steps)),
  /** For a page that is closing: the browser sends it, and the answer is not read. */
  leaveSteps: (songId: string, steps: StepsRequest): void => {
    fetch(paths.songSteps(songId), { ...post(steps), keepalive: true }).catch(() => undefined);
  },
  /** For the record of faults; a report that gets lost is not sent again. */
  reportFault: (report: FaultReport): void => {
    fetch(paths.faults, { ...post(report), keepalive: true }).catch(() => undefined);
  },
  recording: (hash: string) => getJson(paths.recording(hash), recordingSchema),
  async peaks(hash: string): Promise<PeakLevel[]> {
    return decodePeaks(await (await request(paths.recordingPeaks(hash))).arrayBuffer());
  },
  async partSound(songId: string, partId: string, takeId: string, signal: AbortSignal): Promise<Uint8Array> {
    const path = `${paths.partSound(songId, partId)}?takeId=${encodeURIComponent(takeId)}`;
    return new Uint8Array(await (await request(path, { signal })).arrayBuffer());
  },
  startReading: (reading: ReadingRequest) => getJson(paths.readings, readingStatusSchema, post(reading)),
  readings: () => getJson(paths.readings, readingListSchema).then(({ readings }) => readings),
  readingStatus: (id: string) => getJson(paths.reading(id), readingStatusSchema),
  readingResult: (id: string) => getJson(paths.readingResult(id), melodyResultSchema),
  notesResult: (id: string) => getJson(paths.readingResult(id), notesResultSchema),
  hitsResult: (id: string) => getJson(paths.readingResult(id), hitsResultSchema),
  chordsResult: (id: string) => getJson(paths.readingResult(id), chordsResultSchema),
  materialResult: (id: string) => getJson(paths.readingResult(id), materialResultSchema),
  onsetsResult: (id: string) => getJson(paths.readingResult(id), onsetsResultSchema),
  cancelReading: (id: string) => request(paths.reading(id), { method: 'DELETE' }),
  uploadRecording,
  unfinishedTakes: (songId: string) =>
    getJson(`${paths.takes}?song=${encodeURIComponent(songId)}`, unfinishedTakeListSchema).then(
      ({ takes }) => takes,
    ),
  beginTake: (take: TakeBeginning) => getJson(paths.takes, unfinishedTakeSchema, post(take)),
  /** Interleaved 32-bit floats. */
  writeTake: (id: string, fromFrame: number, bytes: Uint8Array<ArrayBuffer>) =>
    getJson(paths.takeSamples(id, fromFrame), takeFramesSchema, {
      method: 'PUT',
      headers: { 'Content-Type': 'application/octet-stream' },
      body: bytes,
    }),
  keepTake: (id: string, pieces: KeepTakeRequest['pieces']) =>
    getJson(paths.takeKeep(id), keptTakeSchema, post({ pieces })).then(({ recordings }) => recordings),
  shelf: () => getJson(paths.shelf, shelfListSchema),
  addToShelf: (item: AddToShelf) => getJson(paths.shelf, shelfItemSchema, post(item)),
  changeShelfItem: (id: string, change: ChangeShelfItem) =>
    getJson(paths.shelfItem(id), shelfItemSchema, { ...post(change), method: 'PATCH' }),
  takeOffShelf: (id: string) => request(paths.shelfItem(id), { method: 'DELETE' }),
  putBackOnShelf: (id: string) => request(paths.shelfRestore(id), post()),
  shelfNotes: (id: string) => getJson(paths.shelfNotes(id), phraseSchema).then(({ notes }) => notes),
  listenToItem: (id: string) => getJson(paths.shelfListen(id), shelfItemSchema, post()),
  takeSoundPath: (id: string) => paths.takeSound(id),
  discardTake: (id: string) => request(paths.take(id), { method: 'DELETE' }),
};

/** Sends a file with progress (0–1); `signal` breaks it off. */
function uploadRecording(
  file: File,
  onProgress: (share: number) => void,
  signal: AbortSignal,
): Promise<Recording> {
  return new Promise((resolve, reject) => {
    const upload = new XMLHttpRequest();
    upload.open('POST', paths.recordings);
    upload.setRequestHeader(FILE_NAME_HEADER, encodeURIComponent(file.name));
    upload.setRequestHeader('Content-Type', 'application/octet-stream');
    upload.upload.onprogress = (event) => event.lengthComputable && onProgress(event.loaded / event.total);
    upload.onload = () => {
      if (upload.status < 300) resolve(recordingSchema.parse(JSON.parse(upload.responseText)));
      else void errorOf(upload.status, upload.responseText).then(reject);
    };
    upload.onerror = () =>
      reject(
        new ApiError(
          0,
          'unreachable',
          'The server cannot be reached, so nothing was imported. Check that it runs and drop the file again.',
        ),
      );
    upload.onabort = () =>
      reject(new ApiError(0, 'aborted', 'The import was stopped; nothing was kept of it.'));
    signal.addEventListener('abort', () => upload.abort());
    upload.send(file);
  });
}
