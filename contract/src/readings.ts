import { z } from 'zod';
import { recordingHashSchema } from './recordings.ts';

export const melodyKindSchema = z.enum(['voice', 'guitar', 'bass', 'auto']);

export const readingRequestSchema = z.object({
  recordingHash: recordingHashSchema,
  type: z.enum(['melody', 'onsets']),
  /** Of a melody; onsets are read alike for all. */
  kind: melodyKindSchema,
});
export type ReadingRequest = z.infer<typeof readingRequestSchema>;

export const readingStatusSchema = z.object({
  id: z.string(),
  recordingHash: recordingHashSchema,
  state: z.enum(['waiting', 'running', 'done', 'failed', 'cancelled']),
  /** 0–1 */
  progress: z.number(),
  message: z.string().optional(),
});
export type ReadingStatus = z.infer<typeof readingStatusSchema>;
export const readingListSchema = z.object({ readings: z.array(readingStatusSchema) });

export const melodyResultSchema = z.object({
  kind: z.object({ kind: z.enum(['voice', 'guitar', 'bass', 'wide']), reason: z.string() }),
  tuningCents: z.number(),
  contour: z.object({
    hopSeconds: z.number(),
    f0Hz: z.array(z.number()),
    confidence: z.array(z.number()),
  }),
  notes: z.array(
    z.object({
      startSeconds: z.number(),
      endSeconds: z.number(),
      midi: z.number(),
      velocity: z.number(),
      confidence: z.number(),
    }),
  ),
});
export const onsetsResultSchema = z.object({
  onsets: z.array(z.object({ seconds: z.number(), salience: z.number() })),
});
export type OnsetsResult = z.infer<typeof onsetsResultSchema>;
export type MelodyResult = z.infer<typeof melodyResultSchema>;
