import { z } from 'zod';
import { editSchema, keySchema, songSchema } from '@plundra/core/song';

const id = z.string().min(1).max(64);

export const songSummarySchema = z.object({
  id,
  title: z.string(),
  key: keySchema.nullable(),
  bpm: z.number(),
  metre: z.string(),
  partCount: z.number(),
  revision: z.number().int(),
  updatedAt: z.string(),
});
export type SongSummary = z.infer<typeof songSummarySchema>;
export const songListSchema = z.object({ songs: z.array(songSummarySchema) });

const historyEntrySchema = z.object({ id, label: z.string(), edit: editSchema, inverse: editSchema });

export const songDocumentSchema = z.object({
  song: songSchema,
  revision: z.number().int().min(0),
  history: z.object({ done: z.array(historyEntrySchema), undone: z.array(historyEntrySchema) }),
  /** The newest requests that are in the song, so that a page which reloads knows what of its own was saved. */
  recentRequestIds: z.array(id),
});
export type SongDocument = z.infer<typeof songDocumentSchema>;

export const createSongRequestSchema = z.object({ title: z.string().trim().min(1).max(200) });

export const stepSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('do'), id, label: z.string().min(1).max(200), edit: editSchema }),
  z.object({ kind: z.literal('undo'), id }),
  z.object({ kind: z.literal('redo'), id }),
]);

/** A step with the revision it was made on. `requestId` makes a repeated request harmless. */
export const stepRequestSchema = z.object({
  requestId: id,
  clientId: id,
  baseRevision: z.number().int().min(0),
  step: stepSchema,
});
export type StepRequest = z.infer<typeof stepRequestSchema>;
export const stepResponseSchema = z.object({ revision: z.number().int() });

export const demoResponseSchema = z.object({ songIds: z.array(id).min(1) });
export const midiImportResponseSchema = z.object({ songId: id });
