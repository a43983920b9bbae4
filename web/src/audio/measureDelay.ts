/** How late the input is: clicks go out, come back through a cable or the air, and are found in what came in. */
import { delayOf } from '@plundra/core/signal';
import type { SoundInput } from './soundInput.ts';

const CLICKS = 6;
/** Unevenly apart: clicks at one distance would look alike at the wrong delay too. */
const APART_SECONDS = [0.23, 0.31, 0.19, 0.37, 0.29, 0.25];
const CLICK_SECONDS = 0.012;
const LONGEST_SECONDS = 1;
const LEAST_LIKENESS = 0.3;
const LEVEL = 0.5;

export class NoClickError extends Error {
  override name = 'NoClickError';
}

/** Throws {@link NoClickError} where nothing that could be the clicks came back. */
export async function measureDelay(
  context: AudioContext,
  output: AudioNode,
  input: SoundInput,
): Promise<number> {
  await context.resume();
  const rate = context.sampleRate;
  const sent = clicks(rate);
  const buffer = context.createBuffer(1, sent.length, rate);
  buffer.copyToChannel(sent, 0);
  const source = context.createBufferSource();
  source.buffer = buffer;
  source.connect(output);
  const heard: { frame: number; samples: Float32Array }[] = [];
  const unsubscribe = input.subscribe(({ frame, channels }) => heard.push({ frame, samples: channels[0] }));
  try {
    const at = context.currentTime + 0.1;
    source.start(at);
    const wait = 0.1 + sent.length / rate + LONGEST_SECONDS;
    await new Promise((resolve) => setTimeout(resolve, 1000 * wait));
    await input.flush();
    const from = Math.round(at * rate);
    const recorded = new Float32Array(sent.length + LONGEST_SECONDS * rate);
    for (const { frame, samples } of heard)
      for (let i = 0; i < samples.length; i++) {
        const place = frame + i - from;
        if (place >= 0 && place < recorded.length) recorded[place] = samples[i];
      }
    const { samples, likeness } = delayOf(sent, recorded, LONGEST_SECONDS * rate);
    if (likeness < LEAST_LIKENESS)
      throw new NoClickError(
        'No click came back. Connect the output to the input by a cable, or hold the microphone to the loudspeaker, turn the level up and measure again.',
      );
    // The first sample goes out at a whole frame.
    return samples / rate + (from / rate - at);
  } finally {
    unsubscribe();
  }
}

/** Short bursts of falling pitch, which are found to the sample. */
function clicks(rate: number): Float32Array<ArrayBuffer> {
  const length = Math.ceil((APART_SECONDS.reduce((sum, each) => sum + each, 0) + CLICK_SECONDS) * rate);
  const out = new Float32Array(length);
  let start = 0;
  for (let k = 0; k < CLICKS; k++) {
    for (let i = 0; i < CLICK_SECONDS * rate; i++) {
      const t = i / rate;
      out[Math.round(start * rate) + i] =
        LEVEL * Math.sin(2 * Math.PI * (4000 * t - 120_000 * t * t)) * Math.exp(-t / 0.003);
    }
    start += APART_SECONDS[k];
  }
  return out;
}
