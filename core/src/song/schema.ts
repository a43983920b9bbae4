/**
 * The song as data. Everything a song is, apart from the sound of its recordings, is in this one document;
 * it changes only through edits (see edit.ts).
 */
import { z } from 'zod';

/** Ticks in a quarter note. */
export const TICKS_PER_QUARTER = 960;
export const SONG_SCHEMA_VERSION = 3;

/** What a song can hold at the most; an edit that would go beyond is refused (see limits.ts). */
export const MAX_TICKS = 1e9;
export const MAX_PARTS = 500;
/** In one part. */
export const MAX_PASSAGES = 2000;
/** In one part. */
export const MAX_TAKES = 2000;
/** In one passage. */
export const MAX_NOTES = 200_000;
/** In one note. */
export const MAX_BENDS_OF_NOTE = 10_000;
/** Tempi, and metres. */
export const MAX_MAP_ENTRIES = 10_000;
export const MAX_CHORDS = 20_000;
export const LONGEST_NAME = 120;
export const LONGEST_TITLE = 200;
export const MAX_BEATS = 32;
export const MAX_BEND_SEMITONES = 24;

export const idSchema = z.string().min(1).max(64);
const id = idSchema;
export const ticksSchema = z.number().int().min(0).max(MAX_TICKS);
const ticks = ticksSchema;
export const secondsSchema = z.number().min(0).max(1e6);
const seconds = secondsSchema;
export const pitchSchema = z.number().min(0).max(127);
export const velocitySchema = z.number().int().min(1).max(127);

/** A tempo, in quarter notes a minute, from a tick on. */
export const tempoEntrySchema = z.object({
  startTicks: ticks,
  bpm: z.number().min(10).max(400),
  /** It goes to that of the next entry evenly over the ticks between, instead of holding until there. */
  ramp: z.literal(true).optional(),
});
export const metreEntrySchema = z.object({
  startTicks: ticks,
  beats: z.number().int().min(1).max(MAX_BEATS),
  unit: z.union([z.literal(1), z.literal(2), z.literal(4), z.literal(8), z.literal(16), z.literal(32)]),
});
/** Sharps (positive) or flats of the signature, and the mode; the tonic follows (core/theory). */
export const keySchema = z.object({
  fifths: z.number().int().min(-7).max(7),
  mode: z.enum(['major', 'minor']),
});

/** From here on, until the next. */
export const keyChangeSchema = z.object({ startTicks: ticks.min(1), key: keySchema });

/** A map starts at tick 0 and ascends. */
function mapOf<T extends { startTicks: number }>(entry: z.ZodType<T>) {
  return z
    .array(entry)
    .min(1)
    .max(MAX_MAP_ENTRIES)
    .refine((entries) => entries.at(0)?.startTicks === 0, 'The first entry must start at tick 0.')
    .refine(
      (entries) => entries.every((each, i) => i === 0 || each.startTicks > entries[i - 1].startTicks),
      'Entries must ascend in time.',
    );
}
export const tempoMapSchema = mapOf(tempoEntrySchema);
export const metreMapSchema = mapOf(metreEntrySchema);

/** What a line note should be, where that differs from what was played. */
export const targetSchema = z.object({
  midi: pitchSchema.optional(),
  startSeconds: seconds.optional(),
  endSeconds: seconds.optional(),
  /** Share of the distance to the rail that is taken away; absent: none. */
  centre: z.number().min(0).max(1).optional(),
  /** Share of the vibrato and of the slow drift that stays; absent: all of it. */
  vibratoKept: z.number().min(0).max(2).optional(),
  driftKept: z.number().min(0).max(2).optional(),
});

/** Stays where it is and does not sound. */
const muted = z.literal(true);

/** One note of a line: what was played, in seconds of the recording, and what it should be. */
export const lineNoteSchema = z.object({
  id,
  startSeconds: seconds,
  endSeconds: seconds,
  midi: pitchSchema,
  /** Pitch of the note it was, where that is not the nearest to what was sung or played. */
  namedMidi: pitchSchema.optional(),
  velocity: velocitySchema,
  confidence: z.number().min(0).max(1),
  target: targetSchema.optional(),
  muted: muted.optional(),
});

export const lineSchema = z.object({
  /** What was read: one melody with its contour (also when absent), all notes at once, or hits as percussion keys. */
  reads: z.enum(['melody', 'notes', 'hits']).optional(),
  /** The reading the line was made from; its contour is fetched by this. */
  readingId: z.string().max(200),
  /** Tuning of the recording against A4 = 440 Hz. */
  tuningCents: z.number().min(-50).max(50),
  /** Deliberate shift of the formants when the recording is corrected; absent: they stay. */
  formantSemitones: z.number().min(-12).max(12).optional(),
  notes: z.array(lineNoteSchema).max(MAX_NOTES),
});

/** Pitch bend of a note: semitones from a time after its start on. */
export const noteBendSchema = z.object({
  afterTicks: ticks,
  semitones: z.number().min(-MAX_BEND_SEMITONES).max(MAX_BEND_SEMITONES),
});

export const LONGEST_LYRIC = 80;

/** One note of a note part; its start counts from the start of the passage. */
export const noteSchema = z.object({
  id,
  startTicks: ticks,
  lengthTicks: ticks.min(1),
  midi: z.number().int().min(0).max(127),
  velocity: velocitySchema,
  muted: muted.optional(),
  /** The syllable that is sung on it; one that its word goes on from ends with a hyphen. */
  lyric: z.string().trim().min(1).max(LONGEST_LYRIC).optional(),
  /** In order of their time; absent: none. */
  bends: z.array(noteBendSchema).min(1).max(MAX_BENDS_OF_NOTE).optional(),
});

export const MATERIALS = ['voice', 'guitar', 'keys', 'bass', 'drums', 'other'] as const;

/** An onset of a recording in its seconds, and where it should lie. */
export const onsetSchema = z.object({ id, seconds, targetSeconds: seconds.optional() });

/** What is done to a recording as a whole, without a line: its onsets moved, and all of it transposed. */
export const stretchSchema = z.object({
  /** Between onsets sound is stretched; hits are cut apart and moved instead. */
  how: z.enum(['stretch', 'slice']),
  semitones: z.number().min(-24).max(24),
  /** In order of their time. */
  onsets: z.array(onsetSchema).max(100_000),
});

/** A chord by its root and degrees as in core/theory; null is no chord. */
export const chordSchema = z
  .object({
    root: z.string().regex(/^[A-G](#{0,2}|b{0,2})$/),
    degrees: z
      .array(z.string().regex(/^[b#]{0,2}(1[0-3]|[1-9])$/))
      .min(1)
      .max(12)
      .readonly(),
    bass: z
      .string()
      .regex(/^[A-G](#{0,2}|b{0,2})$/)
      .optional(),
  })
  .nullable();

/** A chord that was read in a recording, in its own seconds; it holds until the next. */
export const ownChordSchema = z.object({
  startSeconds: seconds,
  chord: chordSchema,
  confidence: z.number().min(0).max(1),
});

/** As the take table calls a take. */
export const takeNameSchema = z.string().trim().min(1).max(LONGEST_NAME);

/** A recording of a part, and what was read of it and corrected in it: all in seconds of the recording. */
export const takeSchema = z.object({
  id,
  /** Absent where there is one take only. */
  name: takeNameSchema.optional(),
  recordingHash: z.string().regex(/^[0-9a-f]{64}$/),
  line: lineSchema.nullable(),
  /** Heard only while there is no melody: that says more. */
  stretch: stretchSchema.optional(),
  /** The recording's own chords, besides those of the song. */
  chords: z.array(ownChordSchema).max(MAX_CHORDS).optional(),
});

export const LONGEST_FADE_SECONDS = 60;
/** Index into the ten colours. */
const colour = z.number().int().min(0).max(9);
const fade = z.number().min(0).max(LONGEST_FADE_SECONDS);
/** What a passage of either type can have. */
const passageShape = {
  id,
  startTicks: ticks,
  name: z.string().trim().min(1).max(LONGEST_NAME).optional(),
  muted: muted.optional(),
  /** Absent: that of its part. */
  colour: colour.optional(),
  /** What it is in as it sounds now, where that is known; it goes along with every transposition. */
  key: keySchema.optional(),
  /** It stands in the take table and was not chosen: it neither sounds nor covers, and goes wherever the song moves it. */
  spare: z.literal(true).optional(),
};

/**
 * Where the seconds of a recording lie that was not played evenly, in ticks from anywhere: ascending in both. Between two points
 * it is as if played evenly.
 */
export const playedSchema = z
  .array(z.object({ seconds, ticks: z.number().finite() }))
  .min(2)
  .max(MAX_MAP_ENTRIES)
  .refine(
    (points) =>
      points.every(
        (point, i) => i === 0 || (point.seconds > points[i - 1].seconds && point.ticks > points[i - 1].ticks),
      ),
    'How it was played must go forwards.',
  )
  .readonly();

/**
 * What the time of a recording goes by: its own, at a speed of which 1 is as recorded, or the song's tempo; `bpm` is what it
 * was recorded at, in quarter notes a minute, where `played` does not say more.
 */
export const passageClockSchema = z.discriminatedUnion('keeps', [
  z.object({ keeps: z.literal('own'), speed: z.number().min(0.25).max(4) }),
  z.object({ keeps: z.literal('song'), bpm: z.number().min(10).max(400), played: playedSchema.optional() }),
]);

/** A window on a take, and where it lies in the song. */
export const recordingPassageSchema = z.object({
  ...passageShape,
  type: z.literal('recording'),
  takeId: id,
  offsetSeconds: seconds,
  /** Of the recording. */
  durationSeconds: seconds,
  /** Absent: its own time, as recorded. */
  clock: passageClockSchema.optional(),
  /** Besides the level of its part. */
  gainDb: z.number().min(-60).max(24).optional(),
  fadeInSeconds: fade.optional(),
  fadeOutSeconds: fade.optional(),
});

export const notePassageSchema = z.object({
  ...passageShape,
  type: z.literal('notes'),
  lengthTicks: ticks,
  /**
   * So much of its notes lies before it. Present once it was trimmed or split: then it is a window, what begins outside it
   * is hidden, and its notes end where it ends. Absent: all of its notes sound.
   */
  offsetTicks: ticks.optional(),
  /** The take it is of, where several were played of one stretch. A take of notes is nothing but its passages: it is known by its name. */
  take: takeNameSchema.optional(),
  notes: z.array(noteSchema).max(MAX_NOTES),
});

export const passageSchema = z.discriminatedUnion('type', [recordingPassageSchema, notePassageSchema]);

/** One entry of the chords; it holds until the next. */
export const changeSchema = z.object({
  id,
  startTicks: ticks,
  chord: chordSchema,
  /** Only of a chord that was read and not yet confirmed by hand. */
  confidence: z.number().min(0).max(1).optional(),
  /** Other readings, likeliest first. */
  alternatives: z
    .array(z.object({ chord: chordSchema, score: z.number().min(0).max(1) }))
    .max(12)
    .optional(),
  /** How much each pitch class from C on sounded while it held, 0–1. */
  sounding: z.array(z.number().min(0).max(1)).length(12).optional(),
});

export const CHORD_KEY_COUNT = 10;
/** What one chord key plays. */
export const chordKeySchema = z.object({
  chord: chordSchema.unwrap(),
  /** So many of its lowest notes lie an octave higher. */
  inversion: z.number().int().min(0).max(3),
});
const MAX_SECTIONS = 500;
export const sectionSchema = z.object({
  id,
  startTicks: ticks,
  /** Absent: it lasts until the next one. */
  endTicks: ticks.optional(),
  name: z.string().trim().min(1).max(60),
});

/** How a part follows the chords; see core/arranging. */
export const followsSchema = z.object({
  aim: z.enum(['chord', 'scale']),
  way: z.enum(['root', 'nearest']),
  bassOnBass: z.boolean(),
  /** The changes its notes were written over; where there are none they are not known. */
  writtenOver: z.array(changeSchema).max(MAX_CHORDS),
});

export const partShape = {
  id,
  name: z.string().trim().min(1).max(LONGEST_NAME),
  /** Two letters, so that colour is never the only code. */
  mark: z.string().min(1).max(2),
  colour,
  levelDb: z.number().min(-60).max(12),
  /** −1 left … 1 right. */
  pan: z.number().min(-1).max(1),
  mute: z.boolean(),
  solo: z.boolean(),
  /** The group it belongs to, by id; one that is not there is none. */
  group: id.optional(),
};

export const SHORTEST_SEAM_SECONDS = 0.002;
export const LONGEST_SEAM_SECONDS = 0.5;
const MAX_GROUPS = 100;
/** Parts that are heard, folded and moved together. */
export const groupSchema = z.object({
  id,
  name: z.string().trim().min(1).max(LONGEST_NAME),
  colour,
  levelDb: z.number().min(-60).max(12),
  mute: z.boolean(),
  solo: z.boolean(),
});

export const partSchema = z.discriminatedUnion('kind', [
  z.object({
    ...partShape,
    kind: z.literal('recording'),
    material: z.enum(MATERIALS),
    follows: followsSchema.optional(),
    /** How long passages that meet cross over; absent: as short as keeps it from clicking. */
    seamSeconds: z.number().min(SHORTEST_SEAM_SECONDS).max(LONGEST_SEAM_SECONDS).optional(),
    takes: z.array(takeSchema).max(MAX_TAKES),
    passages: z.array(recordingPassageSchema).max(MAX_PASSAGES),
  }),
  z.object({
    ...partShape,
    kind: z.literal('notes'),
    /** General MIDI program, 0–127. */
    program: z.number().int().min(0).max(127),
    follows: followsSchema.optional(),
    /** The recording part whose line it was made from, for listening to both. */
    madeFromPartId: id.optional(),
    passages: z.array(notePassageSchema).max(MAX_PASSAGES),
  }),
  z.object({
    ...partShape,
    kind: z.literal('drums'),
    madeFromPartId: id.optional(),
    passages: z.array(notePassageSchema).max(MAX_PASSAGES),
  }),
]);

export const songSchema = z.object({
  schemaVersion: z.literal(SONG_SCHEMA_VERSION),
  id,
  title: z.string().trim().min(1).max(LONGEST_TITLE),
  /** Of its start; null: not set yet. */
  key: keySchema.nullable(),
  tempoMap: tempoMapSchema,
  metreMap: metreMapSchema,
  parts: z.array(partSchema).max(MAX_PARTS),
  groups: z.array(groupSchema).max(MAX_GROUPS).optional(),
  /** Where the key goes to another, in order of their start. */
  keyChanges: z.array(keyChangeSchema).max(MAX_MAP_ENTRIES).optional(),
  /** In order of their start. */
  changes: z.array(changeSchema).max(MAX_CHORDS).optional(),
  /** Parts that follow the chords sound as they were written. */
  followOff: z.boolean().optional(),
  /** Chord keys from left to right; null: nothing on it. */
  chordKeys: z.array(chordKeySchema.nullable()).max(CHORD_KEY_COUNT).optional(),
  /** In order of their start. */
  sections: z.array(sectionSchema).max(MAX_SECTIONS).optional(),
});

export type OwnChord = z.infer<typeof ownChordSchema>;
export type ChordKey = z.infer<typeof chordKeySchema>;
export type Section = z.infer<typeof sectionSchema>;
export type ChordEntry = z.infer<typeof changeSchema>;
export type Group = z.infer<typeof groupSchema>;
export type KeyChange = z.infer<typeof keyChangeSchema>;
export type Follows = z.infer<typeof followsSchema>;
export type TempoEntry = z.infer<typeof tempoEntrySchema>;
export type MetreEntry = z.infer<typeof metreEntrySchema>;
export type Onset = z.infer<typeof onsetSchema>;
export type Stretch = z.infer<typeof stretchSchema>;
export type LineNote = z.infer<typeof lineNoteSchema>;
export type Line = z.infer<typeof lineSchema>;
export type Note = z.infer<typeof noteSchema>;
export type NoteBend = z.infer<typeof noteBendSchema>;
export type Take = z.infer<typeof takeSchema>;
export type PassageClock = z.infer<typeof passageClockSchema>;
export type Played = readonly z.infer<typeof playedSchema>[number][];
export type RecordingPassage = z.infer<typeof recordingPassageSchema>;
export type NotePassage = z.infer<typeof notePassageSchema>;
export type Passage = z.infer<typeof passageSchema>;
export type Part = z.infer<typeof partSchema>;
export type RecordingPart = Extract<Part, { kind: 'recording' }>;
export type NotePart = Exclude<Part, { kind: 'recording' }>;
export type Material = (typeof MATERIALS)[number];
export type Song = z.infer<typeof songSchema>;

/** An empty song at 120 bpm in 4/4 (the defaults of Standard MIDI Files 1.0), key not set yet. */
export function createSong(songId: string, title: string): Song {
  return {
    schemaVersion: SONG_SCHEMA_VERSION,
    id: songId,
    title,
    key: null,
    tempoMap: [{ startTicks: 0, bpm: 120 }],
    metreMap: [{ startTicks: 0, beats: 4, unit: 4 }],
    parts: [],
  };
}
