/** The microphone as a stream of timed blocks of samples. */
import captureUrl from './captureProcessor.js?url';

export interface Microphone {
  /** Root mean square of what came in last, 0–1. */
  level(): number;
  /** Everything from a context time on, and the end of capturing. */
  finish(fromSeconds: number): Float32Array;
}

interface Block {
  timeSeconds: number;
  samples: Float32Array;
}

/** Why no sound comes in, as a sentence. */
export class MicrophoneError extends Error {}

export async function openMicrophone(context: AudioContext): Promise<Microphone> {
  let stream: MediaStream;
  try {
    stream = await navigator.mediaDevices.getUserMedia({
      // Processing that clears up speech spoils singing.
      audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false },
    });
  } catch (error) {
    throw new MicrophoneError(
      (error as DOMException).name === 'NotFoundError'
        ? 'No microphone or audio input was found. Connect one and try again.'
        : 'The browser did not allow the microphone. Allow it for this page in the address line and try again.',
    );
  }
  await context.audioWorklet.addModule(captureUrl);
  const source = context.createMediaStreamSource(stream);
  const capture = new AudioWorkletNode(context, 'capture', { numberOfOutputs: 0 });
  const blocks: Block[] = [];
  capture.port.onmessage = (event: MessageEvent<Block>) => blocks.push(event.data);
  source.connect(capture);
  // Output and input are both late: both delays lie between the beat and the sample.
  const settings = stream.getAudioTracks()[0].getSettings() as MediaTrackSettings & { latency?: number };
  const delaySeconds = context.baseLatency + (context.outputLatency || 0) + (settings.latency ?? 0);
  return {
    level() {
      const last = blocks[blocks.length - 1]?.samples;
      return last ? Math.sqrt(last.reduce((sum, value) => sum + value * value, 0) / last.length) : 0;
    },
    finish(fromSeconds) {
      source.disconnect();
      capture.port.onmessage = null;
      stream.getTracks().forEach((track) => track.stop());
      return joinBlocks(blocks, context.sampleRate, fromSeconds + delaySeconds);
    },
  };
}

/** One signal from `fromSeconds` on; what is missing between blocks is silence. */
export function joinBlocks(
  blocks: readonly Block[],
  sampleRateHz: number,
  fromSeconds: number,
): Float32Array {
  const last = blocks[blocks.length - 1];
  if (!last) return new Float32Array(0);
  const placeOf = (block: Block) => Math.round((block.timeSeconds - fromSeconds) * sampleRateHz);
  const out = new Float32Array(Math.max(0, placeOf(last) + last.samples.length));
  for (const block of blocks) {
    const place = placeOf(block);
    const skipped = Math.max(0, -place);
    if (skipped < block.samples.length) out.set(block.samples.subarray(skipped), Math.max(0, place));
  }
  return out;
}
