import { z } from 'zod';
import { chordSchema, keySchema } from '@plundra/core/song';
import { HIT_KINDS } from '@plundra/core/theory';
import { recordingHashSchema } from './recordings.ts';

const inOrder = (values: readonly number[]) => values.every((value, i) => i === 0 || value > values[i - 1]);
/** More are not worth sending: an hour at 200 beats a minute. */
export const MOST_KNOWN_BEATS = 12_000;
const manyInOrder = (each: z.ZodNumber) =>
  z.array(each).max(MOST_KNOWN_BEATS).refine(inOrder, 'Beats are given in order.');
/** Beats and bars that a recording was played to. */
const knownBeatsSchema = z
  .object({
    /** Seconds of the recording. */
    seconds: manyInOrder(z.number().min(0)),
    /** Which of them begin a bar, counted from 0. */
    downbeats: manyInOrder(z.number().int().min(0)),
    beatsPerBar: z.number().int().min(1).max(64),
    /** Whether they hold even where the recording seems to be played to others. */
    always: z.boolean(),
  })
  .refine(
    ({ seconds, downbeats }) => (downbeats.at(-1) ?? 0) < seconds.length,
    'A bar begins on one of the beats.',
  );

/** Beats are found at about a tempo that is told, within these; slower and faster ones are counted otherwise. */
export const SLOWEST_NEAR_BPM = 50;
export const FASTEST_NEAR_BPM = 200;

export const melodyKindSchema = z.enum(['voice', 'guitar', 'bass', 'auto']);

/** What is read and how: a melody by its kind, notes and hits with a sensitivity of 0–100. */
export const readingRequestSchema = z.discriminatedUnion('type', [
  z.object({ recordingHash: recordingHashSchema, type: z.literal('melody'), kind: melodyKindSchema }),
  z.object({ recordingHash: recordingHashSchema, type: z.literal('onsets') }),
  z.object({
    recordingHash: recordingHashSchema,
    type: z.enum(['notes', 'hits']),
    sensitivity: z.number().int().min(0).max(100),
  }),
  /** Which of the others suits. */
  z.object({ recordingHash: recordingHashSchema, type: z.literal('material') }),
  /** Kind, key and tempo for the shelf. */
  z.object({ recordingHash: recordingHashSchema, type: z.literal('shelf') }),
  z.object({
    recordingHash: recordingHashSchema,
    type: z.literal('chords'),
    /** Recordings that play together with it, and how much later than it they begin. */
    together: z
      .array(z.object({ recordingHash: recordingHashSchema, laterSeconds: z.number().min(0).max(3600) }))
      .max(40)
      .optional(),
    /** The song's beats, in seconds of the first recording; without them its own are found. */
    beats: knownBeatsSchema.optional(),
    /** What is known of its tempo where beats are found: beats a minute. */
    nearBpm: z.number().min(SLOWEST_NEAR_BPM).max(FASTEST_NEAR_BPM).optional(),
  }),
]);
export type ReadingRequest = z.infer<typeof readingRequestSchema>;
export type ChordsRequest = Extract<ReadingRequest, { type: 'chords' }>;

export const readingStatusSchema = z.object({
  id: z.string(),
  recordingHash: recordingHashSchema,
  state: z.enum(['waiting', 'running', 'done', 'failed', 'cancelled']),
  /** 0–1 */
  progress: z.number(),
  /** Readings that come before it, while it waits. */
  ahead: z.number().int().optional(),
  message: z.string().optional(),
});
export type ReadingStatus = z.infer<typeof readingStatusSchema>;
export const readingListSchema = z.object({ readings: z.array(readingStatusSchema) });

const readNoteSchema = z.object({
  startSeconds: z.number(),
  endSeconds: z.number(),
  midi: z.number(),
  velocity: z.number(),
  confidence: z.number(),
});

export const melodyResultSchema = z.object({
  kind: z.object({ kind: z.enum(['voice', 'guitar', 'bass', 'wide']), reason: z.string() }),
  tuningCents: z.number(),
  contour: z.object({
    hopSeconds: z.number(),
    f0Hz: z.array(z.number()),
    confidence: z.array(z.number()),
  }),
  notes: z.array(readNoteSchema),
  /** What might be notes as well; earlier readings had none apart. */
  faintNotes: z.array(readNoteSchema).default([]),
});
export const notesResultSchema = z.object({ tuningCents: z.number(), notes: z.array(readNoteSchema) });
export const hitsResultSchema = z.object({
  hits: z.array(
    z.object({
      seconds: z.number(),
      kind: z.enum(HIT_KINDS),
      velocity: z.number(),
      evidence: z.number(),
      confidence: z.number(),
    }),
  ),
});
export type HitsResult = z.infer<typeof hitsResultSchema>;
export const materialResultSchema = z.object({
  material: z.enum(['line', 'chordal', 'drums']),
  reason: z.string(),
});
export type MaterialResult = z.infer<typeof materialResultSchema>;
export type NotesResult = z.infer<typeof notesResultSchema>;
/** What a reading id is a reading of; the id carries it. */
export function readingTypeOf(readingId: string): ReadingRequest['type'] | undefined {
  return readingTypes.find((type) => readingId.split('-')[1] === type);
}
const readingTypes = ['melody', 'onsets', 'notes', 'hits', 'material', 'shelf', 'chords'] as const;

export const chordsResultSchema = z.object({
  tempo: z.object({
    bpm: z.number(),
    beats: z.array(z.number()),
    downbeats: z.array(z.number()),
    beatsPerBar: z.number().int().min(1),
    /** A beat is a dotted quarter. */
    compound: z.boolean(),
    /** Beats and bars are those that were given. */
    known: z.boolean().default(false),
  }),
  keys: z.array(z.object({ key: keySchema, confidence: z.number() })),
  keyChanges: z.array(z.object({ startSeconds: z.number(), key: keySchema })),
  tuningCents: z.number(),
  chords: z.array(
    z.object({
      startSeconds: z.number(),
      endSeconds: z.number(),
      chord: chordSchema,
      confidence: z.number(),
      alternatives: z.array(z.object({ chord: chordSchema, score: z.number() })),
      sounding: z.array(z.number()),
    }),
  ),
});
export type ChordsResult = z.infer<typeof chordsResultSchema>;

export const onsetsResultSchema = z.object({
  onsets: z.array(z.object({ seconds: z.number(), salience: z.number() })),
});
export type OnsetsResult = z.infer<typeof onsetsResultSchema>;
export type MelodyResult = z.infer<typeof melodyResultSchema>;
