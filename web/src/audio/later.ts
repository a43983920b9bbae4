/** Work that is due at a time of an audio context. */

/**
 * Does something when a context reaches a time, at once where it has.
 * @returns what takes it back
 */
export type Later = (atSeconds: number, work: () => Promise<void>) => () => void;

/** By the clock, for a context that runs. */
export function laterIn(context: () => BaseAudioContext): Later {
  return (atSeconds, work) => {
    const wait = atSeconds - context().currentTime;
    if (wait <= 0) {
      void work();
      return () => undefined;
    }
    const timer = setTimeout(() => void work(), wait * 1000);
    return () => clearTimeout(timer);
  };
}

/** For a context that is stopped again and again: whoever stops it does what is due before it goes on. */
export class DueWork {
  private waiting: { atSeconds: number; work: () => Promise<void> }[] = [];

  later: Later = (atSeconds, work) => {
    const item = { atSeconds, work };
    this.waiting.push(item);
    return () => (this.waiting = this.waiting.filter((each) => each !== item));
  };

  /** Does what is due until a time, also what only then turns out to be. */
  async until(atSeconds: number): Promise<void> {
    for (;;) {
      const due = this.waiting.filter((item) => item.atSeconds <= atSeconds);
      if (due.length === 0) return;
      this.waiting = this.waiting.filter((item) => !due.includes(item));
      await Promise.all(due.map(({ work }) => work()));
    }
  }
}
