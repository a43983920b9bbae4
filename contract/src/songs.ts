/** Songs, their steps and their history as server and page exchange them. */
import { z } from 'zod';
import { editSchema, fromOldShape, keySchema, songSchema } from '@plundra/core/song';

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

const historyItemSchema = z.object({ id, label: z.string() });

/** What a step of the history changed, and how to take it back. */
/** Steps that waited in a browser since an older release come in its shape. */
const sentEdit = z.preprocess(fromOldShape, editSchema);

export const historyEntrySchema = z.object({ id, label: z.string(), edit: editSchema, inverse: editSchema });
export type HistoryEntry = z.infer<typeof historyEntrySchema>;

export const songDocumentSchema = z.object({
  song: songSchema,
  revision: z.number().int().min(0),
  /** Names only, the newest last; what an entry changed is asked for when it is undone. */
  history: z.object({ done: z.array(historyItemSchema), undone: z.array(historyItemSchema) }),
  /** Requests that are in the song: the newest, and those that were asked about. */
  storedRequestIds: z.array(id),
});
export type SongDocument = z.infer<typeof songDocumentSchema>;

export const createSongRequestSchema = z.object({ title: z.string().trim().min(1).max(200) });

export const stepSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('do'), id, label: z.string().min(1).max(200), edit: sentEdit }),
  z.object({ kind: z.literal('undo'), id }),
  z.object({ kind: z.literal('redo'), id }),
]);

/** A step as every window hears of it: with the edit that the song went through. */
export const takenStepSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('do'), id, label: z.string(), edit: editSchema }),
  z.object({ kind: z.literal('undo'), id, edit: editSchema }),
  z.object({ kind: z.literal('redo'), id, edit: editSchema }),
]);
export type TakenStep = z.infer<typeof takenStepSchema>;

/** Steps that are sent together, and requests that are asked about together. */
export const MAX_STEPS = 100;

/** Steps in their order, with the revision they were made on. A `requestId` makes a repeated request harmless. */
export const stepsRequestSchema = z.object({
  clientId: id,
  baseRevision: z.number().int().min(0),
  /** Put on top of whatever the song is by now: the window is closing and cannot do it itself. */
  onTop: z.boolean().optional(),
  steps: z
    .array(z.object({ requestId: id, step: stepSchema }))
    .min(1)
    .max(MAX_STEPS),
});
export type StepsRequest = z.infer<typeof stepsRequestSchema>;

/** For each step the revision it led to, or a sentence why it was refused. */
export const stepsResponseSchema = z.object({
  outcomes: z.array(
    z.union([
      z.object({ requestId: id, revision: z.number().int() }),
      z.object({ requestId: id, refused: z.string() }),
    ]),
  ),
});
export type StepsResponse = z.infer<typeof stepsResponseSchema>;

export const revisionSchema = z.object({ revision: z.number().int() });

export const demoResponseSchema = z.object({ songIds: z.array(id).min(1) });
/** `changed`: sentences about what had to be changed or left out. */
export const midiImportResponseSchema = z.object({ songId: id, changed: z.array(z.string()) });

/** Songs in the bin, until when they can be brought back. */
export const binSchema = z.object({
  songs: z.array(songSummarySchema.extend({ deletedAt: z.string(), goneAt: z.string() })),
});
export type BinnedSong = z.infer<typeof binSchema>['songs'][number];
