/** Windows over a bad network, in simulated time: nothing may vanish and all must end equal (web/src/test/simulation.ts). */
import { simulate } from '../../../web/src/test/simulation.ts';

export interface ScheduleFigures {
  schedules: number;
  taken: number;
  applied: number;
  refused: number;
  lost: number;
  repeated: number;
  closed: number;
  faults: string[];
}

/** Schedules that the tests do not run. */
const FIRST_SEED = 1_000_000;

export async function measureSchedules(schedules: number): Promise<ScheduleFigures> {
  const sum: ScheduleFigures = {
    schedules,
    taken: 0,
    applied: 0,
    refused: 0,
    lost: 0,
    repeated: 0,
    closed: 0,
    faults: [],
  };
  for (let i = 0; i < schedules; i++) {
    const seed = FIRST_SEED + i;
    const report = await simulate({ seed, windows: 2 + (i % 3 === 0 ? 1 : 0), steps: 6 + (i % 10) });
    sum.taken += report.taken;
    sum.applied += report.applied;
    sum.refused += report.refused;
    sum.lost += report.lost;
    sum.repeated += report.repeated;
    sum.closed += report.closed;
    sum.faults.push(...report.faults.map((fault) => `${seed}: ${fault}`));
    if (i % 250 === 0) process.stderr.write('.');
  }
  process.stderr.write('\n');
  return sum;
}
