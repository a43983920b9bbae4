/** An audio context whose time stands still until a test moves it, and which remembers what was started in it. */
export interface StartedSource {
  at: number;
  offset: number;
  length: number;
  stopAt: number | undefined;
}

class FakeParam {
  value = 1;
  setValueAtTime() {
    return this;
  }
  linearRampToValueAtTime() {
    return this;
  }
  exponentialRampToValueAtTime() {
    return this;
  }
  setTargetAtTime() {
    return this;
  }
  cancelScheduledValues() {
    return this;
  }
}

class FakeNode {
  gain = new FakeParam();
  pan = new FakeParam();
  frequency = new FakeParam();
  connect<T>(target: T): T {
    return target;
  }
  disconnect() {}
}

export class FakeAudioBuffer {
  constructor(
    readonly length: number,
    readonly sampleRate: number,
    readonly numberOfChannels = 1,
  ) {}
  getChannelData() {
    return new Float32Array(this.length);
  }
  copyFromChannel() {}
}

export class FakeAudioContext {
  static readonly opened: FakeAudioContext[] = [];
  currentTime = 10;
  baseLatency = 0;
  sampleRate = 1000;
  destination = new FakeNode();
  audioWorklet = { addModule: () => Promise.resolve() };
  sources: StartedSource[] = [];
  clicks: number[] = [];

  constructor() {
    FakeAudioContext.opened.push(this);
  }

  resume = () => Promise.resolve();
  close = () => Promise.resolve();
  createGain = () => new FakeNode();
  createStereoPanner = () => new FakeNode();
  createBuffer = (channels: number, length: number, rate: number) =>
    new FakeAudioBuffer(length, rate, channels);
  decodeAudioData = () => Promise.resolve(new FakeAudioBuffer(10_000, 1000));
  createOscillator = () =>
    Object.assign(new FakeNode(), {
      start: (at: number) => this.clicks.push(at),
      stop: () => undefined,
    });
  createBufferSource = () => {
    const source: StartedSource = { at: NaN, offset: NaN, length: NaN, stopAt: undefined };
    return Object.assign(new FakeNode(), {
      buffer: null,
      onended: null,
      start: (at: number, offset: number, length: number) => {
        Object.assign(source, { at, offset, length });
        this.sources.push(source);
      },
      stop: (at: number) => (source.stopAt = at),
    });
  };
}
