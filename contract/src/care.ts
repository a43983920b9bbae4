/** What keeps work safe: backups, room on the disk, and the record of faults. */
import { z } from 'zod';
import { songSummarySchema } from './songs.ts';

export const backupListSchema = z.object({
  /** The newest first. */
  backups: z.array(z.object({ name: z.string(), madeAt: z.string(), byteLength: z.number() })),
});
export type Backup = z.infer<typeof backupListSchema>['backups'][number];

/** A song in a backup, beside what it is now. */
export const backupSongsSchema = z.object({
  songs: z.array(
    songSummarySchema.extend({ now: z.enum(['the same', 'changed since', 'in the bin', 'gone']) }),
  ),
});
export type BackupSong = z.infer<typeof backupSongsSchema>['songs'][number];

export const restoreRequestSchema = z.object({ songId: z.string().min(1).max(64) });

export const healthSchema = z.object({
  freeBytes: z.number(),
  /** A sentence when the disk is nearly full. */
  warning: z.string().nullable(),
});
export type Health = z.infer<typeof healthSchema>;

/** A fault that a page ran into, for the record. */
export const faultReportSchema = z.object({
  where: z.string().max(200),
  message: z.string().max(2000),
  stack: z.string().max(8000).optional(),
});
export type FaultReport = z.infer<typeof faultReportSchema>;

export const faultListSchema = z.object({
  /** The newest first. */
  faults: z.array(
    z.object({ at: z.string(), where: z.string(), message: z.string(), stack: z.string().optional() }),
  ),
});
export type Fault = z.infer<typeof faultListSchema>['faults'][number];
