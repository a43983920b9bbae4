import type { ReadingStatus } from '@plundra/contract';

/** What a reading that has not started is waiting for; undefined once it runs. */
export function waitingFor({ state, ahead }: Pick<ReadingStatus, 'state' | 'ahead'>): string | undefined {
  if (state !== 'waiting' || !ahead) return undefined;
  return ahead === 1 ? 'Waits for another reading' : `Waits for ${ahead} other readings`;
}
