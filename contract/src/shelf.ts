/** The shelf as server and page exchange it. */
import { z } from 'zod';
import { phraseNotesSchema, shelfFactsSchema, shelfItemSchema } from '@plundra/core/shelf';
import { keySchema } from '@plundra/core/song';
import { recordingHashSchema } from './recordings.ts';

export const shelfListSchema = z.object({
  items: z.array(shelfItemSchema),
  /** Of those that come with the application, how many are still being put there. */
  arriving: z.number().int().min(0),
});

const [recordingSound, notesSound] = shelfItemSchema.shape.sound.options;

/** A recording that is listened to, or what a passage is. */
export const addToShelfSchema = z.union([
  z.object({ recordingHash: recordingHashSchema, fileName: z.string().min(1).max(400) }),
  shelfFactsSchema.extend({
    fromSong: z.string().max(200).optional(),
    sound: z.discriminatedUnion('type', [
      recordingSound.omit({ picture: true }),
      notesSound.omit({ picture: true }),
    ]),
    notes: phraseNotesSchema.optional(),
  }),
]);
export type AddToShelf = z.infer<typeof addToShelfSchema>;

export const changeShelfItemSchema = shelfFactsSchema
  .extend({ upbeatSeconds: z.number().min(0).max(60) })
  .partial()
  .strict();
export type ChangeShelfItem = z.infer<typeof changeShelfItemSchema>;

export const phraseSchema = z.object({ notes: phraseNotesSchema });

/** What listening to a recording brings for the shelf. */
export const shelfReadingSchema = z.object({
  material: z.enum(['line', 'chordal', 'drums']),
  /** It goes round without a stumble. */
  loop: z.boolean(),
  /** Null where nothing has a pulse. */
  tempo: z
    .object({
      /** Quarter notes a minute. */
      bpm: z.number(),
      beats: z.number().int(),
      unit: z.union([z.literal(4), z.literal(8)]),
      firstBeatSeconds: z.number(),
      confidence: z.number(),
    })
    .nullable(),
  /** Null for drums and where nothing has a pitch. */
  key: z.object({ key: keySchema, confidence: z.number() }).nullable(),
});
export type ShelfReading = z.infer<typeof shelfReadingSchema>;
