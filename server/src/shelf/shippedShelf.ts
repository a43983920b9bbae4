/** What comes with the application: put on the shelf once, when somebody looks at it first. */
import { createReadStream, existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { z } from 'zod';
import { phraseNotesSchema, pictureOfNotes, shelfItemSchema, type ShelfItem } from '@plundra/core/shelf';
import type { Pool } from '../readings/pool.ts';
import { addRecording } from '../recordings/addRecording.ts';
import type { RecordingStore, ShelfStore } from '../store/index.ts';
import { pictureOfRecording } from './pictureOfRecording.ts';

const shippedSchema = z.object({
  items: z.array(
    shelfItemSchema.omit({ sound: true, createdAt: true }).extend({
      /** Of the recording, beside the list. */
      file: z.string().optional(),
      program: z.number().optional(),
      lengthTicks: z.number().optional(),
      notes: phraseNotesSchema.optional(),
    }),
  ),
});

export interface ShippedShelf {
  /** Begins to put there what is missing; how many that are still. */
  arrive(): Promise<number>;
}

/** All the same age: they lie below what a user keeps. */
const SHIPPED_AT = '2026-01-01T00:00:00.000Z';

export function createShippedShelf(
  demoFolder: string,
  shelf: ShelfStore,
  recordings: RecordingStore,
  pool: Pool,
  changed: () => void,
  failed: (error: unknown) => void,
): ShippedShelf {
  let missing: Promise<number> | undefined;
  let left = 0;
  const folder = join(demoFolder, 'shelf');
  const begin = async (): Promise<number> => {
    const list = join(folder, 'shelf.json');
    if (!existsSync(list)) return 0;
    const { items } = shippedSchema.parse(JSON.parse(readFileSync(list, 'utf8')));
    const waiting: z.infer<typeof shippedSchema>['items'] = [];
    for (const item of items) if (!(await shelf.has(item.id))) waiting.push(item);
    left = waiting.length;
    const bring = async () => {
      for (const { file, program, lengthTicks, notes, ...facts } of waiting) {
        const item = { ...facts, shipped: true as const, createdAt: SHIPPED_AT };
        if (file) {
          const recording = await addRecording(recordings, pool, createReadStream(join(folder, file)), file);
          const window = { offsetSeconds: 0, durationSeconds: recording.durationSeconds };
          const picture = pictureOfRecording(
            await recordings.peaks(recording.hash),
            window,
            recording.sampleRateHz,
          );
          const sound = {
            type: 'recording' as const,
            recordingHash: recording.hash,
            ...window,
            upbeatSeconds: 0,
            picture,
          };
          await shelf.insert({ ...item, sound });
        } else if (notes && lengthTicks !== undefined) {
          const sound: ShelfItem['sound'] = {
            type: 'notes',
            program: program ?? 'drums',
            lengthTicks,
            upbeatTicks: 0,
            noteCount: notes.length,
            picture: pictureOfNotes(notes, lengthTicks),
          };
          await shelf.insert({ ...item, sound }, notes);
        }
        left--;
        if (left % 8 === 0) changed();
      }
    };
    void bring().catch(failed);
    return left;
  };
  return {
    async arrive() {
      missing ??= begin();
      await missing;
      return left;
    },
  };
}
