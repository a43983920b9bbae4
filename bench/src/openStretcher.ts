/**
 * The npm package signalsmith-stretch (MIT), for the table only. It comes as an audio worklet; here its processor is
 * driven block by block, with a clock of its own.
 */
import { createRequire } from 'node:module';
import type { MovedOnset } from '@plundra/core/retune';
import type { Stretcher } from './stretch.ts';

const BLOCK = 128;
const require = createRequire(import.meta.url);

interface Processor {
  port: { onmessage(event: { data: unknown[] }): void; postMessage(data: unknown): void };
  process(inputs: Float32Array[][], outputs: Float32Array[][], parameters: object): boolean;
}

interface WorkletScope {
  AudioWorkletProcessor?: unknown;
  registerProcessor?: (name: string, made: new (options: object) => Processor) => void;
  sampleRate?: number;
  currentTime?: number;
}

export async function loadOpenStretcher(sampleRateHz: number): Promise<Stretcher> {
  const scope = globalThis as unknown as WorkletScope;
  let Made: (new (options: object) => Processor) | undefined;
  scope.sampleRate = sampleRateHz;
  scope.currentTime = 0;
  scope.AudioWorkletProcessor = class {
    port = { onmessage: () => undefined, postMessage: () => undefined };
  };
  scope.registerProcessor = (_name, made) => (Made = made);
  require('signalsmith-stretch');
  return {
    name: 'signalsmith-stretch (MIT)',
    async stretch(samples, onsets, semitones) {
      const answers = new Map<unknown, () => void>();
      const processor = new Made!({
        numberOfInputs: 0,
        numberOfOutputs: 1,
        outputChannelCount: [1],
        processorOptions: {},
      });
      const ready = new Promise<void>((resolve) => answers.set('ready', resolve));
      processor.port.postMessage = (data) => answers.get((data as unknown[])[0])?.();
      let id = 0;
      const call = (...message: unknown[]) => {
        const done = new Promise<void>((resolve) => answers.set(id, resolve));
        processor.port.onmessage({ data: [id++, ...message] });
        return done;
      };
      scope.currentTime = 0;
      await ready;
      await call('addBuffers', [samples]);
      const segments = segmentsOf(onsets);
      let next = 0;
      const out = new Float32Array(samples.length);
      const block = new Float32Array(BLOCK);
      for (let at = 0; at < out.length; at += BLOCK) {
        scope.currentTime = at / sampleRateHz;
        // It holds one change ahead: the next is sent when the one before has begun.
        if (next < segments.length && scope.currentTime >= (segments[next - 1]?.output ?? 0))
          await call('schedule', { ...segments[next++], active: true, semitones });
        processor.process([], [[block]], {});
        // Its answer belongs to the output time that it is given.
        out.set(block.subarray(0, out.length - at), at);
      }
      return out;
    },
  };
}

function segmentsOf(onsets: MovedOnset[]): { output: number; input: number; rate: number }[] {
  const points = [{ fromSeconds: 0, toSeconds: 0 }, ...onsets];
  return points.map((point, i) => {
    const next = points[i + 1];
    return {
      output: point.toSeconds,
      input: point.fromSeconds,
      rate: next ? (next.fromSeconds - point.fromSeconds) / (next.toSeconds - point.toSeconds) : 1,
    };
  });
}
