import { z } from 'zod';

/** The one shape of every error answer. `message` is a sentence for the user. */
export const errorBodySchema = z.object({
  error: z.object({ code: z.string(), message: z.string(), details: z.unknown().optional() }),
});
export type ErrorBody = z.infer<typeof errorBodySchema>;

/** Error code for a step that was made on an older revision. */
export const STALE_REVISION = 'stale_revision';
