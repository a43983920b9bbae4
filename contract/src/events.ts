import { z } from 'zod';
import { readingStatusSchema } from './readings.ts';
import { takenStepSchema } from './songs.ts';

/** What the server tells every open page over one stream of server-sent events. */
export const serverEventSchema = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('song'),
    songId: z.string(),
    revision: z.number().int(),
    clientId: z.string(),
    requestId: z.string(),
    step: takenStepSchema,
  }),
  z.object({ type: z.literal('songs') }),
  z.object({ type: z.literal('shelf') }),
  /** Sent now and then, so that a page knows the stream is alive. */
  z.object({ type: z.literal('alive') }),
  z.object({ type: z.literal('reading'), status: readingStatusSchema }),
]);
export type ServerEvent = z.infer<typeof serverEventSchema>;
