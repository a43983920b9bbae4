/** Recordings as server and page exchange them. */
import { z } from 'zod';

export const recordingHashSchema = z.string().regex(/^[0-9a-f]{64}$/);

export const recordingSchema = z.object({
  hash: recordingHashSchema,
  name: z.string(),
  format: z.enum(['wav', 'flac', 'mp3', 'ogg']),
  byteLength: z.number(),
  sampleRateHz: z.number(),
  channels: z.number(),
  durationSeconds: z.number(),
  /** Sentences about what could not be read. */
  warnings: z.array(z.string()),
});
export type Recording = z.infer<typeof recordingSchema>;

/** Header of an upload with the name of the file, percent-encoded. */
export const FILE_NAME_HEADER = 'x-file-name';
