/** Passages at a speed of their own: made while they play, and given straight to what plays them. */
import { envelopeOf, FADE_SECONDS, followEnvelope } from './envelope.ts';
import type { RecordingTrack } from './playlist.ts';
import type { Sounding, SoundingStretch } from './recordingSounds.ts';
import type { MadeSound } from './retuneSources.ts';
import streamUrl from './streamProcessor.js?url';

/** As much is made first: short enough to be heard at once. */
const FIRST_SECONDS = 0.12;

interface Running {
  node: AudioWorkletNode;
  endSeconds: number;
}

/** What the processor says; see streamProcessor.js. */
interface Said {
  message?: string;
  /** Context time. */
  hereSeconds?: number;
  fedUntilFrame?: number;
}

export interface Streams {
  /** Has to be done before the first is started. */
  load(): Promise<void>;
  prepare(made: MadeSound, fromSeconds: number): Promise<unknown>;
  start(made: MadeSound, track: RecordingTrack, stretch: SoundingStretch): Sounding;
  /** Resolves when all is there that sounds until a context time, for a context that can wait. */
  fed(untilSeconds: number): Promise<unknown>;
}

export function createStreams(context: () => BaseAudioContext, problem: (error: unknown) => void): Streams {
  const running = new Set<Running>();
  let loading: Promise<void> | undefined;

  const firstOf = (made: MadeSound, fromSeconds: number) => {
    const fromSample = Math.round(fromSeconds * made.sampleRateHz);
    const first = Math.round(FIRST_SECONDS * made.sampleRateHz);
    return { fromSample, toSample: Math.min(made.lengthSamples, fromSample + first) };
  };

  return {
    load: () => (loading ??= context().audioWorklet.addModule(streamUrl)),
    prepare(made, fromSeconds) {
      const { fromSample, toSample } = firstOf(made, fromSeconds);
      return made.ahead(fromSample, toSample);
    },
    start(made, track, { at, fromSeconds, lengthSeconds, output, fadeIn, replaces }) {
      const { sampleRateHz, lengthSamples, channels } = made;
      const { fromSample, toSample } = firstOf(made, fromSeconds);
      const endSample = Math.min(lengthSamples, fromSample + Math.round(lengthSeconds * sampleRateHz));
      const node = new AudioWorkletNode(context(), 'stream', {
        numberOfInputs: 0,
        outputChannelCount: [channels],
        processorOptions: {
          startFrame: Math.round(at * sampleRateHz),
          fromSample,
          askedSample: toSample,
          endSample,
        },
      });
      const source = new MessageChannel();
      const told: MessagePort[] = [source.port2];
      const handing = replaces?.replacedBy?.();
      if (handing) told.push(handing);
      node.port.postMessage({ source: source.port2, replaces: handing }, told);
      made.stream(source.port1, fromSample, toSample);

      const fade = context().createGain();
      node.connect(fade).connect(output);
      followEnvelope(fade.gain, envelopeOf(track, lengthSamples / sampleRateHz), fromSeconds, at, fadeIn);
      const entry = { node, endSeconds: at + (endSample - fromSample) / sampleRateHz };
      running.add(entry);
      let stopped = false;
      let before = replaces;
      node.port.addEventListener('message', ({ data }: MessageEvent<Said>) => {
        if (data.hereSeconds !== undefined) before = undefined;
        if (data.message !== undefined && !stopped) problem(new Error(data.message));
      });
      node.port.start();
      return {
        stop(when) {
          stopped = true;
          running.delete(entry);
          const end = Math.max(when, context().currentTime);
          fade.gain.cancelScheduledValues(end);
          fade.gain.setTargetAtTime(0, end, FADE_SECONDS / 3);
          node.port.postMessage({ endFrame: Math.ceil((end + 2 * FADE_SECONDS) * sampleRateHz) });
          // What it should have replaced by now may sound still.
          before?.stop(when);
        },
        replacedBy() {
          stopped = true;
          running.delete(entry);
          const { port1, port2 } = new MessageChannel();
          node.port.postMessage({ replacedBy: port2 }, [port2]);
          return port1;
        },
      };
    },
    fed(untilSeconds) {
      const now = context().currentTime;
      for (const each of running) if (each.endSeconds <= now) running.delete(each);
      const untilFrame = Math.ceil(untilSeconds * context().sampleRate);
      return Promise.all(
        [...running].map(
          ({ node }) =>
            new Promise<void>((resolve, reject) => {
              const hear = ({ data }: MessageEvent<Said>) => {
                if (data.message !== undefined) reject(new Error(data.message));
                else if (data.fedUntilFrame === untilFrame) resolve();
                else return;
                node.port.removeEventListener('message', hear);
              };
              node.port.addEventListener('message', hear);
              node.port.postMessage({ fedUntilFrame: untilFrame });
            }),
        ),
      );
    },
  };
}
