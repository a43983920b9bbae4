/** What listening to a recording says of an item. */
import type { ShelfReading } from '@plundra/contract';
import type { ShelfItem } from '@plundra/core/shelf';
import { bpmInName } from '@plundra/core/song';

/** A tempo in a file's name that a whole number of beats agrees with, to within this, is believed. */
const AGREES_BEATS = 0.06;

/** The item as it was found; as it was where listening broke off. */
export function asFound(item: ShelfItem, found: ShelfReading | undefined): ShelfItem {
  const {
    listening: _,
    keyConfidence: _key,
    tempoConfidence: _tempo,
    heardNothing: _nothing,
    ...rest
  } = item;
  if (item.sound.type !== 'recording') return rest;
  if (!found) return { ...rest, heardNothing: 'broke off' };
  const { tempo, loop, key, material } = found;
  const { durationSeconds } = item.sound;
  // A name that says the tempo of a whole number of beats is right, whatever else was heard. What stands in the item may be
  // what an earlier listening found, or a hand typed: that is to be found anew.
  const named = bpmInName(item.name) ?? null;
  const beats = named === null ? 0 : (durationSeconds * named) / 60;
  const nameIsRight = named !== null && beats > 1.5 && Math.abs(beats - Math.round(beats)) < AGREES_BEATS;
  const bpm = nameIsRight ? named : (tempo?.bpm ?? named);
  return {
    ...rest,
    kind: loop || nameIsRight ? 'loop' : 'recording',
    // A name that says bass says more than one that hears a line.
    material: material === 'drums' ? 'drums' : rest.material === 'drums' ? 'other' : rest.material,
    key: key?.key ?? null,
    bpm,
    ...(tempo && { metre: { beats: tempo.beats, unit: tempo.unit } }),
    sound: {
      ...item.sound,
      upbeatSeconds:
        loop || nameIsRight || !tempo ? 0 : Math.min(tempo.firstBeatSeconds, durationSeconds / 2),
    },
    ...(key && { keyConfidence: key.confidence }),
    ...(tempo && !nameIsRight && { tempoConfidence: tempo.confidence }),
    ...(!tempo && !key && !nameIsRight && { heardNothing: 'none there' }),
  };
}
