/** A sound input of the machine as blocks of samples on the clock of the audio context. */
import captureUrl from './captureProcessor.js?url';

export interface InputBlock {
  /** Frame of the context at which it began. */
  frame: number;
  channels: Float32Array[];
}

export interface SoundInput {
  /** As its maker calls it. */
  name: string;
  deviceId: string;
  /** Its own rate, where the browser says it. */
  sampleRateHz: number | undefined;
  /** What browser and driver say that it is late; 0 where they do not say. */
  saidDelaySeconds: number;
  subscribe(listener: (block: InputBlock) => void): () => void;
  /** Whether it is heard. */
  setMonitor(on: boolean): void;
  /** When all that came in until now was handed out. */
  flush(): Promise<void>;
  close(): void;
}

export interface InputChoice {
  /** Undefined: the one that the system uses. */
  deviceId: string | undefined;
  channels: 1 | 2;
}

/** Why no sound comes in, as a sentence. */
export class SoundInputError extends Error {
  override name = 'SoundInputError';
}

const REASONS: Record<string, string> = {
  NotFoundError: 'No microphone or audio input was found. Connect one and try again.',
  OverconstrainedError: 'This input is not connected any more. Choose another, or connect it and try again.',
  NotReadableError:
    'Another program holds this input, or its driver does not answer. Close the other program and try again.',
};
const NOT_ALLOWED =
  'The browser did not allow the microphone. Allow it for this page in the address line and try again.';

/** Processing that clears up speech spoils singing. */
const AS_IT_IS = { echoCancellation: false, noiseSuppression: false, autoGainControl: false };

/**
 * Opens an input. Throws {@link SoundInputError}.
 * @param monitor where it is heard when that is wanted
 * @param onEnded it was unplugged, or taken away by the browser
 */
export async function openSoundInput(
  context: AudioContext,
  { deviceId, channels }: InputChoice,
  monitor: AudioNode,
  onEnded: () => void,
): Promise<SoundInput> {
  let stream: MediaStream;
  try {
    stream = await navigator.mediaDevices.getUserMedia({
      audio: {
        ...AS_IT_IS,
        channelCount: channels,
        ...(deviceId && { deviceId: { exact: deviceId } }),
      },
    });
  } catch (error) {
    throw new SoundInputError(REASONS[(error as DOMException).name] ?? NOT_ALLOWED);
  }
  const [track] = stream.getAudioTracks();
  try {
    await context.audioWorklet.addModule(captureUrl);
  } catch {
    track.stop();
    throw new SoundInputError('The page could not be loaded in full. Reload it and try again.');
  }
  const source = context.createMediaStreamSource(stream);
  const capture = new AudioWorkletNode(context, 'capture', {
    numberOfOutputs: 0,
    channelCount: channels,
    channelCountMode: 'explicit',
  });
  const heard = context.createGain();
  heard.gain.value = 0;
  source.connect(capture);
  source.connect(heard).connect(monitor);
  const listeners = new Set<(block: InputBlock) => void>();
  let flushed: (() => void)[] = [];
  capture.port.onmessage = ({ data }: MessageEvent<InputBlock | 'flushed'>) => {
    if (data !== 'flushed') return listeners.forEach((listener) => listener(data));
    flushed.forEach((resolve) => resolve());
    flushed = [];
  };
  track.onended = onEnded;
  const settings = track.getSettings() as MediaTrackSettings & { latency?: number };
  return {
    name: track.label,
    deviceId: settings.deviceId ?? '',
    sampleRateHz: settings.sampleRate,
    saidDelaySeconds: context.baseLatency + (context.outputLatency || 0) + (settings.latency ?? 0),
    subscribe(listener) {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    setMonitor(on) {
      heard.gain.setTargetAtTime(on ? 1 : 0, context.currentTime, 0.01);
    },
    flush: () =>
      new Promise((resolve) => {
        flushed.push(resolve);
        capture.port.postMessage('flush');
      }),
    close() {
      track.onended = null;
      capture.port.onmessage = null;
      source.disconnect();
      heard.disconnect();
      track.stop();
    },
  };
}

/** The inputs that can be chosen; names are known once one was allowed. */
export async function soundInputs(): Promise<{ deviceId: string; name: string }[]> {
  const devices = await navigator.mediaDevices.enumerateDevices();
  return devices
    .filter(({ kind, deviceId }) => kind === 'audioinput' && deviceId !== '')
    .map(({ deviceId, label }, i) => ({ deviceId, name: label || `Input ${i + 1}` }));
}
