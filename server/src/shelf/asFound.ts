/** What listening to a recording says of an item. */
import type { ShelfReading } from '@plundra/contract';
import { bpmInName, keySaid, tempoSaid, type ShelfItem } from '@plundra/core/shelf';

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
  const { tempo, key, material } = found;
  const { durationSeconds } = item.sound;
  // What stands in the item may be what an earlier listening found, or a hand typed: that is to be found anew.
  const said = tempoSaid(
    item.name,
    durationSeconds,
    tempo ? { bpm: tempo.bpm, metre: { beats: tempo.beats, unit: tempo.unit } } : undefined,
  );
  const named = material === 'drums' ? undefined : keySaid(item.name, key?.key);
  const loop = found.loop || said?.inWords === true;
  return {
    ...rest,
    kind: loop ? 'loop' : 'recording',
    // A name that says bass says more than one that hears a line.
    material: material === 'drums' ? 'drums' : rest.material === 'drums' ? 'other' : rest.material,
    key: named ?? key?.key ?? null,
    bpm: said?.bpm ?? tempo?.bpm ?? bpmInName(item.name) ?? null,
    ...(tempo && { metre: { beats: tempo.beats, unit: tempo.unit } }),
    sound: {
      ...item.sound,
      upbeatSeconds: loop || !tempo ? 0 : Math.min(tempo.firstBeatSeconds, durationSeconds / 2),
    },
    ...(key && !named && { keyConfidence: key.confidence }),
    ...(tempo && !said && { tempoConfidence: tempo.confidence }),
    ...(!tempo && !key && !said && !named && { heardNothing: 'none there' }),
  };
}
