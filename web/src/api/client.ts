/** Calls to the server: every answer is checked against the contract, every error is a sentence. */
import type { z } from 'zod';
import {
  demoResponseSchema,
  errorBodySchema,
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
  songDocumentSchema,
  songListSchema,
  stepResponseSchema,
  type ReadingRequest,
  type Recording,
  type StepRequest,
} from '@plundra/contract';
import { decodePeaks, type PeakLevel } from '@plundra/core/signal';

/** An answer that says no. `status` 0: the server was not reached. */
export class ApiError extends Error {
  override name = 'ApiError';
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly details?: unknown,
  ) {
    super(message);
  }
}

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
  song: (id: string) => getJson(paths.song(id), songDocumentSchema),
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
  takeStep: (songId: string, step: StepRequest) =>
    getJson(paths.songSteps(songId), stepResponseSchema, post(step)),
  recording: (hash: string) => getJson(paths.recording(hash), recordingSchema),
  async peaks(hash: string): Promise<PeakLevel[]> {
    return decodePeaks(await (await request(paths.recordingPeaks(hash))).arrayBuffer());
  },
  async partSound(songId: string, partId: string, signal: AbortSignal): Promise<Uint8Array> {
    return new Uint8Array(await (await request(paths.partSound(songId, partId), { signal })).arrayBuffer());
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
