/** What steps of the history changed and how to take them back, as far as this window knows. */
import { HISTORY_LIMIT, type Reversible } from '@plundra/core/song';

export class KnownEntries {
  /** Of the confirmed song. */
  private readonly confirmed = new Map<string, Reversible>();
  /** As predicted for steps that wait. */
  private predicted = new Map<string, Reversible>();

  of(entryId: string): Reversible | undefined {
    return this.predicted.get(entryId) ?? this.confirmed.get(entryId);
  }

  ofConfirmed(entryId: string): Reversible | undefined {
    return this.confirmed.get(entryId);
  }

  learn(entryId: string, { edit, inverse }: Reversible): void {
    this.confirmed.delete(entryId);
    this.confirmed.set(entryId, { edit, inverse });
    const oldest = this.confirmed.keys().next().value;
    if (this.confirmed.size > 2 * HISTORY_LIMIT && oldest !== undefined) this.confirmed.delete(oldest);
  }

  predict(entryId: string, { edit, inverse }: Reversible): void {
    this.predicted.set(entryId, { edit, inverse });
  }

  forgetPredictions(): void {
    this.predicted = new Map();
  }
}
