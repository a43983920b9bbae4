import { beforeEach, describe, expect, it, vi } from 'vitest';

const RATE = 1000;
const QUANTUM = 100;
const FADE_FRAMES = 8;

/** A port whose messages the test hands over itself. */
class FakePort {
  onmessage: ((event: { data: unknown }) => void) | undefined;
  said: unknown[] = [];
  postMessage(data: unknown) {
    this.said.push(data);
  }
  hears(data: unknown) {
    this.onmessage!({ data });
  }
}

interface Processor {
  port: FakePort;
  process(inputs: unknown[], outputs: Float32Array[][]): boolean;
}
interface Asked {
  fromSample: number;
  toSample: number;
}

const world = globalThis as unknown as { currentFrame: number; currentTime: number };
let StreamProcessor: new (options: { processorOptions: object }) => Processor;

beforeEach(async () => {
  vi.stubGlobal(
    'AudioWorkletProcessor',
    class {
      port = new FakePort();
    },
  );
  vi.stubGlobal(
    'registerProcessor',
    (_name: string, made: typeof StreamProcessor) => (StreamProcessor = made),
  );
  vi.stubGlobal('sampleRate', RATE);
  vi.stubGlobal('currentFrame', 0);
  vi.stubGlobal('currentTime', 0);
  vi.resetModules();
  await import('./streamProcessor.js' as string);
  return () => vi.unstubAllGlobals();
});

/** Sample n of the sound is n; whoever makes it answers when the test says so. */
function start(options: { startFrame?: number; fromSample?: number; endSample?: number } = {}) {
  const { startFrame = 0, fromSample = 0, endSample = 5000 } = options;
  const processor = new StreamProcessor({
    processorOptions: { startFrame, fromSample, askedSample: fromSample + 100, endSample },
  });
  const source = new FakePort();
  processor.port.hears({ source });
  const give = ({ fromSample: from, toSample: to }: Asked) =>
    source.hears({
      fromSample: from,
      channels: [Float32Array.from({ length: to - from }, (_, i) => from + i)],
    });
  const asked = () => source.said.filter((each): each is Asked => each !== 'over');
  return { processor, source, give, asked, first: { fromSample, toSample: fromSample + 100 } };
}

/** The next frames; `onEach` before each quantum. */
function run(processor: Processor, frames: number, onEach: () => void = () => undefined) {
  const out: number[] = [];
  let goesOn = true;
  for (let at = 0; at < frames && goesOn; at += QUANTUM) {
    onEach();
    const channel = new Float32Array(QUANTUM);
    goesOn = processor.process([], [[channel]]);
    out.push(...channel);
    world.currentFrame += QUANTUM;
    world.currentTime = world.currentFrame / RATE;
  }
  return { out, goesOn };
}

describe('a sound that is made while it plays', () => {
  it('is heard sample by sample from its frame on, and over at its end', () => {
    const { processor, source, give, asked, first } = start({
      startFrame: 250,
      fromSample: 40,
      endSample: 3040,
    });
    give(first);
    let answered = 0;
    const { out, goesOn } = run(processor, 5000, () => {
      while (answered < asked().length) give(asked()[answered++]);
    });
    const wanted = [...Array<number>(250).fill(0), ...Array.from({ length: 3000 }, (_, i) => 40 + i)];
    expect(out.slice(0, 3250)).toEqual(wanted);
    expect(out.slice(3250).every((x) => x === 0)).toBe(true);
    expect(goesOn).toBe(false);
    expect(source.said[source.said.length - 1]).toBe('over');
    // Without a gap or an overlap, in pieces that grow, and never far ahead.
    const all = [first, ...asked()];
    all.slice(1).forEach(({ fromSample }, i) => expect(fromSample).toBe(all[i].toSample));
    expect(all.map(({ fromSample, toSample }) => toSample - fromSample).slice(0, 5)).toEqual([
      100, 200, 400, 400, 400,
    ]);
  });

  it('is asked for no further than it needs to be, and one piece at a time', () => {
    const { processor, give, asked, first } = start({ endSample: 60_000 });
    run(processor, 300);
    expect(asked()).toHaveLength(0);
    give(first);
    expect(asked()).toHaveLength(1);
    run(processor, 300);
    expect(asked()).toHaveLength(1);
    for (let i = 0; i < 20; i++) give(asked()[asked().length - 1]);
    expect(Math.max(...asked().map(({ toSample }) => toSample))).toBeLessThanOrEqual(600 + 1500 + 400);
  });

  it('that comes late comes in where it would be by then, without a click', () => {
    const { processor, give, first } = start();
    expect(run(processor, 200).out.every((x) => x === 0)).toBe(true);
    expect(processor.port.said).toEqual([]);
    // The first piece is over by now.
    give(first);
    give({ fromSample: 100, toSample: 300 });
    const { out } = run(processor, 100);
    for (let i = 0; i < QUANTUM; i++)
      expect(out[i]).toBeCloseTo((200 + i) * Math.min(1, (i + 1) / FADE_FRAMES), 3);
    expect(processor.port.said).toEqual([{ hereSeconds: 0.2 }]);
  });

  it('does not come in for a moment that is over before what follows is there', () => {
    const { processor, give, first } = start();
    give(first);
    give({ fromSample: 100, toSample: 230 });
    expect(run(processor, 200).out[199]).toBe(199);
    run(processor, 200);
    // Of this, thirty frames could be heard; then there would be a gap again.
    give({ fromSample: 300, toSample: 430 });
    expect(run(processor, 100).out.every((x) => x === 0)).toBe(true);
    give({ fromSample: 430, toSample: 900 });
    expect(run(processor, 100).out[50]).toBe(550);
  });

  it('does not have made what could only be heard too late', () => {
    const { processor, give, asked, first } = start();
    run(processor, 700);
    give(first);
    expect(asked()[0].fromSample).toBe(700);
  });

  it('goes on until what replaces it is there, then ends', () => {
    const old = start();
    old.give(old.first);
    old.give({ fromSample: 100, toSample: 2000 });
    const next = start();
    const [handing, replacedBy] = [new FakePort(), new FakePort()];
    old.processor.port.hears({ replacedBy });
    next.processor.port.hears({ replaces: handing });
    expect(run(old.processor, 300).out[299]).toBe(299);
    world.currentFrame -= 300;
    run(next.processor, 300);
    expect(handing.said).toEqual([]);
    next.give({ fromSample: 300, toSample: 900 });
    run(next.processor, 100);
    expect(handing.said).toEqual(['here']);
    replacedBy.hears('here');
    const { out, goesOn } = run(old.processor, 300);
    expect(out[0]).toBeGreaterThan(300);
    expect(out.slice(FADE_FRAMES).every((x) => x === 0)).toBe(true);
    expect(goesOn).toBe(false);
  });

  it('ends when it is told to', () => {
    const { processor, give, first } = start();
    give(first);
    processor.port.hears({ endFrame: 250 });
    const { out, goesOn } = run(processor, 2000);
    expect([out.length, goesOn]).toEqual([300, false]);
  });

  it('says when all is there until a frame, also while nothing runs', () => {
    const { processor, give, first } = start();
    processor.port.hears({ fedUntilFrame: 250 });
    give(first);
    expect(processor.port.said).toEqual([]);
    give({ fromSample: 100, toSample: 300 });
    expect(processor.port.said).toEqual([{ fedUntilFrame: 250 }]);
  });

  it('hands on what keeps it from being made', () => {
    const { processor, source } = start();
    source.hears({ message: 'No room.' });
    expect(processor.port.said).toEqual([{ message: 'No room.' }]);
  });
});
