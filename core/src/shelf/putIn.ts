/** Puts an item into a song, as one edit. */
import type { Ticks } from '../signal/index.ts';
import {
  applyEdit,
  clockPlayed,
  createTimeMap,
  EditError,
  emptyStretch,
  findPassages,
  followingTicks,
  MAX_TICKS,
  passageEndTicks,
  planRepeat,
  type Edit,
  type NotePassage,
  type Note,
  type Part,
  type PassagePlace,
  type RecordingPassage,
  type SimpleEdit,
  type Song,
  type Take,
  type TimeMap,
} from '../song/index.ts';
import { fitItem, songPlace, type FitWish, type ItemFit } from './fit.ts';
import type { ShelfItem } from './item.ts';

export interface PutIn {
  item: ShelfItem;
  /** Of a phrase. */
  notes?: readonly Note[];
  /** The part it goes into: one of the song, or a new one. */
  into: Part;
  atTicks: Ticks;
  /** It is repeated until there; absent: once. */
  untilTicks?: Ticks;
  fit: FitWish;
  /** Its first beat lies at the place, and what comes before that sounds before; else it begins there. */
  upbeatBefore: boolean;
}

export interface PutInPlan {
  edit: Edit;
  places: PassagePlace[];
  fit: ItemFit;
  /** Where all of it ends. */
  endTicks: Ticks;
}

/** Whether a part takes what an item sounds with. */
export function takesItem(part: Part, { sound }: Pick<ShelfItem, 'sound'>): boolean {
  if (sound.type === 'recording') return part.kind === 'recording';
  return part.kind === (sound.program === 'drums' ? 'drums' : 'notes');
}

/** Throws {@link EditError} where it cannot be put there. */
export function planPutIn(song: Song, wanted: PutIn, createId: () => string): PutInPlan {
  const { item, into, atTicks, untilTicks } = wanted;
  if (!takesItem(into, item))
    throw new EditError(
      item.sound.type === 'recording'
        ? `“${item.name}” is a recording, and ${into.name} is a part of notes. Choose a part for recordings, or a new one.`
        : `“${item.name}” is made of notes that ${into.name} cannot hold. Choose another part, or a new one.`,
    );
  if (atTicks > MAX_TICKS) throw new EditError('This is too far behind the end of the song.');
  const time = createTimeMap(song);
  const fit = fitItem(item, songPlace(song, atTicks), wanted.fit);
  const edits: SimpleEdit[] = [];
  let now = song;
  const add = (...more: SimpleEdit[]) => {
    for (const edit of more) {
      edits.push(edit);
      now = applyEdit(now, edit).song;
    }
  };
  if (!song.parts.some(({ id }) => id === into.id))
    add({ type: 'part.add', part: { ...into, passages: [] } as Part, index: song.parts.length });
  const passage =
    item.sound.type === 'recording'
      ? recorded(item, item.sound, wanted, fit, time, createId, add)
      : written(item, item.sound, wanted, fit, createId, add);
  const place = { partId: into.id, passageId: passage.id };
  let endTicks = passageEndTicks(passage, time);
  const places = [place];
  if (untilTicks !== undefined && untilTicks > endTicks) {
    const more = planRepeat(findPassages(now, [place]), untilTicks, time, createId);
    if (more) {
      add(...(more.edit.type === 'batch' ? more.edit.edits : [more.edit]));
      places.push(...more.places);
      endTicks = untilTicks;
    }
  }
  return { edit: { type: 'batch', edits }, places, fit, endTicks };
}

type Add = (...edits: SimpleEdit[]) => void;
type SoundOf<T> = Extract<ShelfItem['sound'], { type: T }>;

/** What a passage of either type says of the item. */
const said = ({ name }: ShelfItem, { key }: ItemFit) => ({ name, ...(key && { key }) });

function recorded(
  item: ShelfItem,
  sound: SoundOf<'recording'>,
  { into, atTicks, upbeatBefore }: PutIn,
  fit: ItemFit,
  time: TimeMap,
  createId: () => string,
  add: Add,
): RecordingPassage {
  const { recordingHash, upbeatSeconds } = sound;
  const take: Take = {
    id: createId(),
    recordingHash,
    line: null,
    ...(fit.semitones !== 0 && { stretch: { ...emptyStretch(item.material), semitones: fit.semitones } }),
  };
  const clock = fit.countedBpm === null ? undefined : clockPlayed(sound.played, fit.countedBpm);
  const before = upbeatBefore ? upbeatSeconds : 0;
  // In its own time the upbeat is as long as recorded, whatever that is in the song's beats.
  const beforeTicks = Math.round(
    clock
      ? followingTicks({ startTicks: 0, offsetSeconds: sound.offsetSeconds }, clock).toTicks(
          sound.offsetSeconds + before,
        )
      : atTicks - time.ticksAt(time.secondsAt(atTicks) - before),
  );
  // Before the start of the song there is nothing: the upbeat is left out there.
  const cut = beforeTicks > atTicks ? before : 0;
  const passage: RecordingPassage = {
    type: 'recording',
    id: createId(),
    takeId: take.id,
    startTicks: cut > 0 ? atTicks : atTicks - beforeTicks,
    offsetSeconds: sound.offsetSeconds + cut,
    durationSeconds: sound.durationSeconds - cut,
    ...(clock && { clock }),
    ...said(item, fit),
  };
  add({ type: 'take.add', partId: into.id, take }, { type: 'passage.add', partId: into.id, passage });
  return passage;
}

function written(
  item: ShelfItem,
  sound: SoundOf<'notes'>,
  { into, notes = [], atTicks, upbeatBefore }: PutIn,
  fit: ItemFit,
  createId: () => string,
  add: Add,
): NotePassage {
  if (notes.length === 0) throw new EditError(`The notes of “${item.name}” are not here yet. Try again.`);
  const before = upbeatBefore ? sound.upbeatTicks : 0;
  const cut = before > atTicks ? before : 0;
  const midiOf = (midi: number) => {
    const moved = midi + fit.semitones;
    return moved > 127 ? moved - 12 : moved < 0 ? moved + 12 : moved;
  };
  const passage: NotePassage = {
    type: 'notes',
    id: createId(),
    startTicks: cut > 0 ? atTicks : atTicks - before,
    lengthTicks: sound.lengthTicks - cut,
    ...(cut > 0 && { offsetTicks: cut }),
    notes: notes.map((note) => ({ ...note, id: createId(), midi: midiOf(note.midi) })),
    ...said(item, fit),
  };
  add({ type: 'passage.add', partId: into.id, passage });
  return passage;
}
