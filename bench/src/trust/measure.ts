import { measureCorrectedMemory } from './correctedMemory.ts';
import { measureKills } from './kills.ts';
import { measureLargeSong } from './largeSongs.ts';
import type { TrustFigures } from './page.ts';
import { measureSchedules } from './schedules.ts';
import { measureSpoiled } from './spoiledFiles.ts';

const SCHEDULES = 5000;
const KILLS = 100;
const FILES = 20_000;

export async function measureTrust(): Promise<TrustFigures> {
  return {
    spoiled: await measureSpoiled(FILES),
    songs: [await measureLargeSong(5000, 200), await measureLargeSong(20_000, 135)],
    memory: measureCorrectedMemory(),
    kills: await measureKills(KILLS),
    schedules: await measureSchedules(SCHEDULES),
  };
}
