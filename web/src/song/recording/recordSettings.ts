/** How this browser records: kept for the next time, and never part of a song. */
import { z } from 'zod';
import { browserMemory } from '../storage.ts';

const settingsSchema = z.object({
  /** Null: the input that the system uses. */
  deviceId: z.string().nullable(),
  channels: z.union([z.literal(1), z.literal(2)]),
  countInBars: z.number().int().min(0).max(4),
  metronome: z.enum(['always', 'count-in', 'off']),
  /** Round the loop, each round a take. */
  rounds: z.boolean(),
  /** From the start of the loop to its end only. */
  punch: z.boolean(),
  monitor: z.boolean(),
  a4Hz: z.number().min(415).max(466),
});
export type RecordSettings = z.infer<typeof settingsSchema>;

const FIRST: RecordSettings = {
  deviceId: null,
  channels: 1,
  countInBars: 1,
  metronome: 'count-in',
  rounds: false,
  punch: false,
  monitor: false,
  a4Hz: 440,
};
const KEY = 'recording';
const delayKeyOf = (deviceId: string) => `delay:${deviceId}`;

export function readSettings(): RecordSettings {
  try {
    const kept = settingsSchema.safeParse(JSON.parse(browserMemory.read(KEY) ?? ''));
    return kept.success ? kept.data : FIRST;
  } catch {
    return FIRST;
  }
}

export const writeSettings = (settings: RecordSettings): void =>
  browserMemory.write(KEY, JSON.stringify(settings));

/** Measured or typed for an input; undefined: never. */
export function keptDelaySeconds(deviceId: string): number | undefined {
  const kept = browserMemory.read(delayKeyOf(deviceId));
  const seconds = kept === null ? NaN : Number(kept);
  return Number.isFinite(seconds) ? seconds : undefined;
}

export const keepDelaySeconds = (deviceId: string, seconds: number): void =>
  browserMemory.write(delayKeyOf(deviceId), String(seconds));
