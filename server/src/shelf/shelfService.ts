/** The shelf: what lies on it, what is put on it, and what listening finds. */
import { randomUUID } from 'node:crypto';
import type { AddToShelf, ChangeShelfItem, ReadingStatus, Recording } from '@plundra/contract';
import { shelfReadingSchema } from '@plundra/contract';
import { bpmInName, pictureOfNotes, type ShelfItem, type ShelfSound } from '@plundra/core/shelf';
import { guessMaterial, nameOfFile, type Note } from '@plundra/core/song';
import type { ReadingService } from '../readings/readingService.ts';
import { Problem, type RecordingStore, type ShelfStore } from '../store/index.ts';
import { asFound } from './asFound.ts';
import { pictureOfRecording } from './pictureOfRecording.ts';

export interface ShelfService {
  list(): Promise<ShelfItem[]>;
  notes(id: string): Promise<Note[]>;
  add(wanted: AddToShelf): Promise<ShelfItem>;
  change(id: string, change: ChangeShelfItem): Promise<ShelfItem>;
  /** Listens once more; what was said by hand is found anew. */
  listen(id: string): Promise<ShelfItem>;
  takeOff(id: string): Promise<void>;
  putBack(id: string): Promise<void>;
  /** Of every reading, whatever it is of. */
  hear(status: ReadingStatus): Promise<void>;
  /** From now on readings that break off do so because the server stops: they go on with the next. */
  close(): void;
}

export function createShelfService(
  store: ShelfStore,
  recordings: RecordingStore,
  readings: ReadingService,
  changed: () => void,
): ShelfService {
  /** Those whose reading was asked for since the server started. */
  const asked = new Set<string>();
  let closed = false;

  const listenTo = async (item: ShelfItem): Promise<void> => {
    if (item.sound.type !== 'recording') return;
    asked.add(item.id);
    const status = await readings.start({ recordingHash: item.sound.recordingHash, type: 'shelf' });
    // One that was read before is there at once.
    if (status.state === 'done') await hear(status);
  };

  const hear = async (status: ReadingStatus): Promise<void> => {
    const { id, state, recordingHash } = status;
    if (closed || !id.includes('-shelf-') || !['done', 'failed', 'cancelled'].includes(state)) return;
    const found =
      state === 'done' ? shelfReadingSchema.parse(JSON.parse(await readings.result(id))) : undefined;
    const waiting = (await store.list()).filter(
      ({ listening, sound }) =>
        listening && sound.type === 'recording' && sound.recordingHash === recordingHash,
    );
    for (const item of waiting)
      await store
        .change(item.id, (now) => (now.listening ? asFound(now, found) : now))
        .catch(() => undefined);
    if (waiting.length > 0) changed();
  };

  return {
    async list() {
      const items = await store.list();
      // A server that stopped while it listened goes on.
      for (const item of items)
        if (item.listening && !asked.has(item.id)) await listenTo(item).catch(() => undefined);
      return items;
    },
    notes: (id) => store.notes(id),
    async add(wanted) {
      const item =
        'fileName' in wanted
          ? ofFile(await recordings.find(wanted.recordingHash), wanted.fileName)
          : ofPassage(wanted);
      const notes = 'notes' in wanted ? wanted.notes : undefined;
      if (item.sound.type === 'notes' && !notes)
        throw new Problem(400, 'no_notes', 'A phrase without notes cannot be put on the shelf.');
      const sound = await withPicture(item.sound, recordings, notes);
      const whole: ShelfItem = { ...item, sound };
      await store.insert(whole, notes);
      if (whole.listening) await listenTo(whole);
      changed();
      return store.find(whole.id);
    },
    async change(id, { upbeatSeconds, ...facts }) {
      const item = await store.change(id, (now) => changedBy(now, facts, upbeatSeconds));
      changed();
      return item;
    },
    async listen(id) {
      const item = await store.change(id, (now) => {
        if (now.sound.type !== 'recording')
          throw new Problem(
            409,
            'no_sound',
            'A phrase is made of notes: its key and tempo are those it was written in.',
          );
        if (now.sound.offsetSeconds > 0)
          throw new Problem(
            409,
            'part_of_recording',
            'This is a stretch of a longer recording: its key and tempo are those of the song it comes from. Type them if they are wrong.',
          );
        return { ...now, listening: true };
      });
      changed();
      await listenTo(item);
      return store.find(id);
    },
    async takeOff(id) {
      await store.takeOff(id);
      changed();
    },
    async putBack(id) {
      await store.putBack(id);
      changed();
    },
    hear,
    close: () => (closed = true),
  };
}

type WithoutPicture<T> = T extends unknown ? Omit<T, 'picture'> : never;
type Unpictured = Omit<ShelfItem, 'sound'> & { sound: WithoutPicture<ShelfSound> };

function ofFile(recording: Recording, fileName: string): Unpictured {
  const name = nameOfFile(fileName);
  return {
    id: randomUUID(),
    name,
    kind: 'recording',
    material: guessMaterial(name),
    tags: [],
    key: null,
    bpm: bpmInName(fileName) ?? null,
    metre: { beats: 4, unit: 4 },
    sound: {
      type: 'recording',
      recordingHash: recording.hash,
      offsetSeconds: 0,
      durationSeconds: recording.durationSeconds,
      upbeatSeconds: 0,
    },
    listening: true,
    createdAt: new Date().toISOString(),
  };
}

function ofPassage(wanted: Exclude<AddToShelf, { fileName: string }>): Unpictured {
  const { notes: _, ...item } = wanted;
  return { ...item, id: randomUUID(), createdAt: new Date().toISOString() };
}

async function withPicture(
  sound: WithoutPicture<ShelfSound>,
  recordings: RecordingStore,
  notes: readonly Note[] | undefined,
): Promise<ShelfSound> {
  if (sound.type === 'notes') return { ...sound, picture: pictureOfNotes(notes!, sound.lengthTicks) };
  const { sampleRateHz, durationSeconds } = await recordings.find(sound.recordingHash);
  if (sound.offsetSeconds + sound.durationSeconds > durationSeconds + 0.01)
    throw new Problem(400, 'beyond_end', 'This passage goes on after the end of its recording.');
  return {
    ...sound,
    picture: pictureOfRecording(await recordings.peaks(sound.recordingHash), sound, sampleRateHz),
  };
}

/** A recording that somebody calls a loop holds a whole number of beats: the nearest to what was heard. */
function tempoAs({ bpm, kind, sound }: ShelfItem, to: ShelfItem['kind'] | undefined): number | null {
  if (to !== 'loop' || kind === 'loop' || bpm === null || sound.type !== 'recording') return bpm;
  const beats = Math.max(1, Math.round((sound.durationSeconds * bpm) / 60));
  return (60 * beats) / sound.durationSeconds;
}

/** What is said by hand is not a guess any more. */
function changedBy(
  item: ShelfItem,
  facts: Omit<ChangeShelfItem, 'upbeatSeconds'>,
  upbeatSeconds: number | undefined,
): ShelfItem {
  const { keyConfidence, tempoConfidence, heardNothing, ...rest } = item;
  const sound =
    upbeatSeconds !== undefined && item.sound.type === 'recording'
      ? { ...item.sound, upbeatSeconds: Math.min(upbeatSeconds, item.sound.durationSeconds / 2) }
      : item.sound;
  return {
    ...rest,
    ...facts,
    bpm: facts.bpm !== undefined ? facts.bpm : tempoAs(item, facts.kind),
    sound,
    ...(facts.key === undefined && keyConfidence !== undefined && { keyConfidence }),
    ...(facts.bpm === undefined && tempoConfidence !== undefined && { tempoConfidence }),
    ...(facts.key === undefined && facts.bpm === undefined && heardNothing && { heardNothing }),
  };
}
