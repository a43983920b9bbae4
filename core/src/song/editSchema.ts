/** What edits look like as data. What they do is in edit.ts. */
import { z } from 'zod';
import {
  changeSchema,
  followsSchema,
  idSchema,
  keySchema,
  LONGEST_TITLE,
  lineNoteSchema,
  lineSchema,
  LONGEST_SEAM_SECONDS,
  SHORTEST_SEAM_SECONDS,
  MATERIALS,
  metreMapSchema,
  MAX_CHORDS,
  MAX_NOTES,
  noteSchema,
  partSchema,
  partShape,
  passageSchema,
  recordingPassageSchema,
  secondsSchema,
  songSchema,
  stretchSchema,
  takeNameSchema,
  takeSchema,
  targetSchema,
  tempoMapSchema,
  ticksSchema,
  velocitySchema,
} from './schema.ts';

/** Edits that belong together: what one gesture does to a large song. */
const MAX_IN_BATCH = 20_000;

const id = idSchema;
const place = { partId: id, passageId: id };
const take = { partId: id, takeId: id };
const index = z.number().int().min(0);
const stretchOfTime = { atTicks: ticksSchema, lengthTicks: ticksSchema.min(1) };

/** Fields of a part that are set directly; which of them a part has depends on its kind. */
const partPatchSchema = z
  .object({
    ...partShape,
    group: id.nullable(),
    seamSeconds: z.number().min(SHORTEST_SEAM_SECONDS).max(LONGEST_SEAM_SECONDS).nullable(),
    program: z.number().int().min(0).max(127),
    material: z.enum(MATERIALS),
  })
  .omit({ id: true })
  .partial();

const songPatchSchema = z
  .object({
    title: z.string().trim().min(1).max(LONGEST_TITLE),
    key: keySchema.nullable(),
    keyChanges: songSchema.shape.keyChanges.unwrap(),
    tempoMap: tempoMapSchema,
    metreMap: metreMapSchema,
    followOff: z.boolean(),
    chordKeys: songSchema.shape.chordKeys.unwrap(),
    sections: songSchema.shape.sections.unwrap(),
    groups: songSchema.shape.groups.unwrap(),
  })
  .partial();

const recordingShape = recordingPassageSchema.shape;

/** Fields of a passage; which of them it has depends on its type. Null takes a field away that need not be there. */
const passagePatchSchema = z
  .object({
    startTicks: ticksSchema,
    lengthTicks: ticksSchema,
    offsetTicks: ticksSchema.nullable(),
    offsetSeconds: secondsSchema,
    durationSeconds: secondsSchema,
    clock: recordingShape.clock.unwrap().nullable(),
    gainDb: recordingShape.gainDb.unwrap().nullable(),
    fadeInSeconds: recordingShape.fadeInSeconds.unwrap().nullable(),
    fadeOutSeconds: recordingShape.fadeOutSeconds.unwrap().nullable(),
    spare: recordingShape.spare.unwrap().nullable(),
    take: takeNameSchema.nullable(),
    muted: recordingShape.muted.unwrap().nullable(),
    name: recordingShape.name.unwrap().nullable(),
    colour: recordingShape.colour.unwrap().nullable(),
    key: recordingShape.key.unwrap().nullable(),
  })
  .partial();

/** All notes of a passage, or those that are named. */
const whichSchema = z.union([z.literal('all'), z.array(id).max(MAX_NOTES)]);

/** How far notes of a note part move, and what all of them get. */
const noteAdjustment = {
  add: z
    .object({ startTicks: z.number().int(), midi: z.number().int(), velocity: z.number().int() })
    .partial(),
  set: z.object({ midi: noteSchema.shape.midi, velocity: velocitySchema, muted: z.boolean() }).partial(),
};

const targetPatchSchema = z
  .object({
    midi: targetSchema.shape.midi.unwrap().nullable(),
    startSeconds: secondsSchema.nullable(),
    endSeconds: secondsSchema.nullable(),
    centre: targetSchema.shape.centre.unwrap().nullable(),
    vibratoKept: targetSchema.shape.vibratoKept.unwrap().nullable(),
    driftKept: targetSchema.shape.driftKept.unwrap().nullable(),
  })
  .partial();

/** The same of the notes of a line: rails move by semitones, target times by seconds; null removes a target. */
const lineAdjustment = {
  add: z.object({ railSemitones: z.number(), seconds: z.number(), velocity: z.number().int() }).partial(),
  set: z
    .object({
      confidence: lineNoteSchema.shape.confidence,
      velocity: velocitySchema,
      muted: z.boolean(),
      target: targetPatchSchema,
    })
    .partial(),
};

const simpleEdits = [
  z.object({ type: z.literal('song.set'), patch: songPatchSchema }),
  z.object({ type: z.literal('part.add'), part: partSchema, index }),
  z.object({ type: z.literal('part.remove'), partId: id }),
  z.object({ type: z.literal('part.set'), partId: id, patch: partPatchSchema }),
  z.object({ type: z.literal('part.follow'), partId: id, follows: followsSchema.nullable() }),
  z.object({ type: z.literal('part.move'), partId: id, index }),
  z.object({ type: z.literal('passage.add'), partId: id, passage: passageSchema, index: index.optional() }),
  z.object({ type: z.literal('passage.remove'), ...place }),
  z.object({ type: z.literal('passage.set'), ...place, patch: passagePatchSchema }),
  /** A passage once more, independent of the first: of a recording its take is copied with it, and gets the same id. */
  z.object({ type: z.literal('passage.copy'), ...place, toId: id, startTicks: ticksSchema }),
  z.object({ type: z.literal('take.add'), partId: id, take: takeSchema, index: index.optional() }),
  z.object({ type: z.literal('take.remove'), ...take }),
  z.object({ type: z.literal('take.name'), ...take, name: takeSchema.shape.name.unwrap().nullable() }),
  z.object({ type: z.literal('take.stretch'), ...take, stretch: stretchSchema.nullable() }),
  z.object({
    type: z.literal('take.chords'),
    ...take,
    chords: takeSchema.shape.chords.unwrap().nullable(),
  }),
  z.object({ type: z.literal('line.set'), ...take, line: lineSchema.nullable() }),
  z.object({ type: z.literal('line.tuning'), ...take, tuningCents: lineSchema.shape.tuningCents }),
  z.object({
    type: z.literal('line.formants'),
    ...take,
    semitones: lineSchema.shape.formantSemitones.unwrap(),
  }),
  z.object({
    type: z.literal('line.notes'),
    ...take,
    remove: z.array(id).max(MAX_NOTES),
    put: z.array(lineNoteSchema).max(MAX_NOTES),
  }),
  z.object({ type: z.literal('line.adjust'), ...take, which: whichSchema, ...lineAdjustment }),
  z.object({
    type: z.literal('passage.notes'),
    ...place,
    remove: z.array(id).max(MAX_NOTES),
    put: z.array(noteSchema).max(MAX_NOTES),
  }),
  z.object({ type: z.literal('passage.adjust'), ...place, which: whichSchema, ...noteAdjustment }),
  z.object({
    type: z.literal('changes.put'),
    remove: z.array(id).max(MAX_CHORDS),
    put: z.array(changeSchema).max(MAX_CHORDS),
  }),
  /**
   * Room put into the whole song, and time taken out of it; see songTime.ts. `cuts`: recordings that sound across the place
   * are cut there; absent in edits of releases that left them where they were.
   */
  z.object({ type: z.literal('time.insert'), ...stretchOfTime, cuts: z.literal(true).optional() }),
  z.object({
    type: z.literal('time.remove'),
    ...stretchOfTime,
    /** Id of the chord that still holds at the place, if any. */
    chordId: id,
    cuts: z.literal(true).optional(),
  }),
] as const;

const simpleEditSchema = z.discriminatedUnion('type', simpleEdits);

export const editSchema = z.discriminatedUnion('type', [
  ...simpleEdits,
  z.object({ type: z.literal('batch'), edits: z.array(simpleEditSchema).max(MAX_IN_BATCH) }),
]);

export type SimpleEdit = z.infer<typeof simpleEditSchema>;
export type Edit = z.infer<typeof editSchema>;
export type EditOf<Type extends SimpleEdit['type']> = Extract<SimpleEdit, { type: Type }>;

/** An edit that does not fit the song, e.g. one that names a part which is gone. The song is unchanged. */
export class EditError extends Error {
  override name = 'EditError';
}

/** The edit as data that a song can take. Throws {@link EditError} for values that no song can have. */
export function checkEdit(edit: Edit): Edit {
  const result = editSchema.safeParse(edit);
  if (result.success) return result.data;
  const [issue] = result.error.issues;
  const where = issue.path.filter((step) => typeof step === 'string').join(' ') || 'the kind of change';
  const what =
    issue.code === 'too_big' || issue.code === 'too_small' ? 'out of range' : 'not as it should be';
  throw new EditError(`This cannot be kept in a song (${where} is ${what}), so nothing was changed.`);
}
