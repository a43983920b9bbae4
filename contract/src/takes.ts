/** Takes while they are recorded: samples arrive as they are sung, so that nothing is lost when anything stops. */
import { z } from 'zod';
import { recordingSchema } from './recordings.ts';

const id = z.string().regex(/^[0-9a-zA-Z-]{1,64}$/);
const frame = z.number().int().min(0);

/** What is known of a take when it begins, and what is needed to put it into its song later. */
export const takeBeginningSchema = z.object({
  id,
  songId: z.string().min(1).max(64),
  /** The part it is a take of; null: it becomes a part of its own. */
  partId: z.string().min(1).max(64).nullable(),
  /** Name of the part. */
  name: z.string().min(1).max(120),
  sampleRateHz: z.number().int().min(8000).max(768_000),
  channels: z.number().int().min(1).max(2),
  startedAt: z.string().max(40),
  /** Where it was begun in the song, and which frame of it was heard there. */
  startTicks: z.number().int().min(0),
  startFrame: frame,
  /** Round a loop: how long one round is. */
  roundSeconds: z.number().positive().max(3600).optional(),
  /** How long it was wanted; absent: as long as it goes. */
  lengthSeconds: z.number().positive().optional(),
});
export type TakeBeginning = z.infer<typeof takeBeginningSchema>;

/** A take of which so many frames are on the disk. */
export const unfinishedTakeSchema = takeBeginningSchema.extend({
  frames: frame,
  /** Since something arrived last. */
  idleSeconds: z.number(),
});
export type UnfinishedTake = z.infer<typeof unfinishedTakeSchema>;
export const unfinishedTakeListSchema = z.object({ takes: z.array(unfinishedTakeSchema) });

/** How many frames are on the disk after a block was written. */
export const takeFramesSchema = z.object({ frames: frame });

/** Interleaved 32-bit floats, little-endian; more is sent in several blocks. */
export const LARGEST_BLOCK_BYTES = 4 * 1024 * 1024;

/** Error code for a block that would leave a hole; `details.frames` says from where on to send. */
export const TAKE_GAP = 'take_gap';

const MAX_ROUNDS = 500;
/** The stretches that become recordings, each with the name of its file. */
export const keepTakeRequestSchema = z.object({
  pieces: z
    .array(z.object({ fromFrame: frame, toFrame: frame, name: z.string().min(1).max(200) }))
    .min(1)
    .max(MAX_ROUNDS),
});
export type KeepTakeRequest = z.infer<typeof keepTakeRequestSchema>;
export const keptTakeSchema = z.object({ recordings: z.array(recordingSchema) });
