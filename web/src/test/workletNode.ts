/** The node of an audio worklet, which remembers what it was told and says what a test lets it say. */
export class FakeWorkletNode {
  static made: FakeWorkletNode[] = [];
  posted: Record<string, unknown>[] = [];
  listeners = new Set<(event: { data: object }) => void>();
  port = {
    postMessage: (data: Record<string, unknown>) => this.posted.push(data),
    addEventListener: (_type: string, listener: (event: { data: object }) => void) =>
      this.listeners.add(listener),
    removeEventListener: (_type: string, listener: (event: { data: object }) => void) =>
      this.listeners.delete(listener),
    start: () => undefined,
  };
  constructor(
    _context: unknown,
    readonly name: string,
    readonly options: { processorOptions: object },
  ) {
    FakeWorkletNode.made.push(this);
  }
  connect<T>(target: T): T {
    return target;
  }
  says(data: object) {
    for (const listener of [...this.listeners]) listener({ data });
  }
  told(what: string) {
    return this.posted.some((message) => message[what] !== undefined);
  }
}
