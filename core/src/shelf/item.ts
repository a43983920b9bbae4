/** What lies on the shelf: loops, recordings and phrases that can go into any song. */
import { z } from 'zod';
import {
  idSchema,
  keySchema,
  LONGEST_NAME,
  MATERIALS,
  metreEntrySchema,
  noteSchema,
  playedSchema,
  secondsSchema,
  ticksSchema,
} from '../song/index.ts';

/** A loop goes round, a recording does not, a phrase is notes. */
export const SHELF_KINDS = ['loop', 'recording', 'phrase'] as const;
export const MAX_TAGS = 20;
export const LONGEST_TAG = 40;
export const MAX_PHRASE_NOTES = 20_000;
/** Heights of the small waveform, and notes of the small picture of a phrase. */
export const PICTURE_COLUMNS = 96;
const PICTURE_NOTES = 64;

export const shelfMetreSchema = metreEntrySchema.omit({ startTicks: true });

/** A window on a recording. */
const recordingSoundSchema = z.object({
  type: z.literal('recording'),
  recordingHash: z.string().regex(/^[0-9a-f]{64}$/),
  offsetSeconds: secondsSchema,
  durationSeconds: secondsSchema.min(0.02),
  /** From its start to the first beat of its first bar. */
  upbeatSeconds: secondsSchema,
  /** How it was played, where that was not evenly: its tempo is the middle one. */
  played: playedSchema.optional(),
  /** Heights of its waveform from 0 to 255, left to right. */
  picture: z.array(z.number().int().min(0).max(255)).max(PICTURE_COLUMNS),
});

/** Its notes are fetched when they are needed. */
const phraseSoundSchema = z.object({
  type: z.literal('notes'),
  /** General MIDI program, or the drum kit. */
  program: z.union([z.number().int().min(0).max(127), z.literal('drums')]),
  lengthTicks: ticksSchema.min(1),
  upbeatTicks: ticksSchema,
  noteCount: z.number().int().min(1).max(MAX_PHRASE_NOTES),
  /** Start and end as shares of the length, and the pitch. */
  picture: z.array(z.tuple([z.number(), z.number(), z.number()])).max(PICTURE_NOTES),
});

export const shelfSoundSchema = z.discriminatedUnion('type', [recordingSoundSchema, phraseSoundSchema]);

/** What can be corrected by hand. */
export const shelfFactsSchema = z.object({
  name: z.string().trim().min(1).max(LONGEST_NAME),
  kind: z.enum(SHELF_KINDS),
  material: z.enum(MATERIALS),
  tags: z.array(z.string().trim().min(1).max(LONGEST_TAG)).max(MAX_TAGS),
  /** As it was played; null: not known, or it has none. */
  key: keySchema.nullable(),
  /** Quarter notes a minute, as in a tempo map; null: it has no steady beat. */
  bpm: z.number().min(10).max(400).nullable(),
  metre: shelfMetreSchema,
});

export const shelfItemSchema = shelfFactsSchema.extend({
  id: idSchema,
  sound: shelfSoundSchema,
  /** How sure key and tempo are that were found by listening, 0–1; absent: said by hand, or by the song it comes from. */
  keyConfidence: z.number().min(0).max(1).optional(),
  tempoConfidence: z.number().min(0).max(1).optional(),
  /** It was not listened to yet; key and tempo come later. */
  listening: z.literal(true).optional(),
  /** Why listening brought neither key nor tempo: it broke off, or the recording has none. */
  heardNothing: z.enum(['broke off', 'none there']).optional(),
  /** Title of the song that it was taken out of. */
  fromSong: z.string().max(200).optional(),
  /** Comes with the application. */
  shipped: z.literal(true).optional(),
  createdAt: z.string(),
});

export const phraseNotesSchema = z.array(noteSchema).min(1).max(MAX_PHRASE_NOTES);

export type ShelfKind = (typeof SHELF_KINDS)[number];
export type ShelfFacts = z.infer<typeof shelfFactsSchema>;
export type ShelfItem = z.infer<typeof shelfItemSchema>;
export type ShelfSound = z.infer<typeof shelfSoundSchema>;
export type ShelfMetre = z.infer<typeof shelfMetreSchema>;
export type PhrasePicture = Extract<ShelfSound, { type: 'notes' }>['picture'];

/** Drums have no key, whatever rings in them. */
export function isPitched({ material, sound }: Pick<ShelfItem, 'material' | 'sound'>): boolean {
  return material !== 'drums' && !(sound.type === 'notes' && sound.program === 'drums');
}

/** The first notes of a phrase as a small picture: start and end as shares of its length, and the pitch. */
export function pictureOfNotes(
  notes: readonly { startTicks: number; lengthTicks: number; midi: number }[],
  lengthTicks: number,
): PhrasePicture {
  const share = (ticks: number) =>
    Math.round((1000 * Math.max(0, Math.min(ticks, lengthTicks))) / lengthTicks) / 1000;
  return notes
    .slice(0, PICTURE_NOTES)
    .map(({ startTicks, lengthTicks: length, midi }) => [
      share(startTicks),
      share(startTicks + length),
      midi,
    ]);
}
