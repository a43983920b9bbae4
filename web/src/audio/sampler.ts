/** Sampled sounds in the audio graph: channels of the sampler with an output of their own each. */
import { WorkletSynthesizer } from 'spessasynth_lib';
import workletUrl from 'spessasynth_lib/dist/spessasynth_processor.min.js?url';
import { fetchSound } from './fetchSound.ts';
import { playableProgram } from './instruments.ts';
import clockUrl from './samplerClock.js?url';

const DRUM_CHANNEL = 9;
const CHANNELS = 16;
const BEND_RANGE_SEMITONES = 12;
const GATE_SECONDS = 0.005;
/** Asked of the sampler's clock, and answered by it; see samplerClock.js. */
const TOLD = 'told';

/** One voice of the arrangement: a program on a channel that sounds into `output`. */
export interface SamplerVoice {
  noteOn(midi: number, velocity: number, atSeconds: number): void;
  noteOff(midi: number, atSeconds: number): void;
  bend(semitones: number, atSeconds: number): void;
  /** Stops all that sounds on it at a time. */
  cut(atSeconds: number): void;
  /** Stops what sounds now. */
  silence(): void;
}

export interface Sampler {
  /** The voice of a key (a part's id), made at the first call; its program follows. */
  voice(key: string, program: number | 'drums', output: AudioNode): SamplerVoice;
  /** Silences everything at once, and drops what is planned. */
  silenceAll(): void;
  /** Resolves when all that was asked so far has reached the sampler. */
  told(): Promise<void>;
}

class Synth extends WorkletSynthesizer {
  /** Resolves when all messages so far have been heard. */
  told(): Promise<void> {
    const { port } = this.worklet;
    return new Promise((resolve) => {
      const hear = ({ data }: MessageEvent<{ type?: unknown }>) => {
        if (data.type !== TOLD) return;
        port.removeEventListener('message', hear);
        resolve();
      };
      port.addEventListener('message', hear);
      port.postMessage({ type: TOLD });
    });
  }
}

interface Slot {
  synth: Synth;
  channel: number;
  program: number | 'drums';
  /**
   * Between the channel and the part's own level. Silence shuts it by the context's own clock, before the sampler hears
   * of it; the next note opens it.
   */
  gate: GainNode;
  shut: boolean;
  bent: boolean;
}

/** How many parts are to sound at once; more get their channels while they wait. */
export interface SamplerSize {
  pitched: number;
  drums: number;
}

export async function createSampler(
  context: BaseAudioContext,
  { pitched, drums }: SamplerSize = { pitched: 1, drums: 1 },
): Promise<Sampler> {
  const bank = await fetchSound(
    '/sounds/instruments.sf3',
    'The sounds of the instruments could not be fetched, so notes stay silent. Check that the server runs, then try again.',
  );
  await context.audioWorklet.addModule(clockUrl);
  await context.audioWorklet.addModule(workletUrl);
  const synths: Synth[] = [];
  const slots = new Map<string, Slot>();

  const addSynth = async () => {
    const synth = new Synth(context, { eventsEnabled: false });
    await synth.soundBankManager.addSoundBank(bank.slice(0), 'instruments');
    await synth.isReady;
    for (let channel = 0; channel < CHANNELS; channel++) {
      synth.controllerChange(channel, 91, 0);
      synth.controllerChange(channel, 93, 0);
      synth.pitchWheelRange(channel, BEND_RANGE_SEMITONES);
    }
    synths.push(synth);
  };
  // Each has one channel for drums.
  const needed = Math.max(1, Math.ceil(pitched / (CHANNELS - 1)), drums);
  for (let i = 0; i < needed; i++) await addSynth();

  const freeChannel = (drums: boolean): { synth: Synth; channel: number } => {
    for (const synth of synths) {
      for (let channel = 0; channel < CHANNELS; channel++) {
        if ((channel === DRUM_CHANNEL) !== drums) continue;
        const taken = [...slots.values()].some((slot) => slot.synth === synth && slot.channel === channel);
        if (!taken) return { synth, channel };
      }
    }
    // All channels are in use: share one until the next sampler is ready.
    void addSynth();
    return { synth: synths[synths.length - 1], channel: drums ? DRUM_CHANNEL : 0 };
  };

  const setProgram = (slot: Slot, program: number | 'drums') => {
    slot.program = program;
    if (program !== 'drums') slot.synth.programChange(slot.channel, playableProgram(program));
  };

  const release = (key: string) => {
    const slot = slots.get(key);
    if (!slot) return;
    slots.delete(key);
    slot.synth.controllerChange(slot.channel, 120, 0);
    slot.synth.disconnectChannel(slot.gate, slot.channel);
    slot.gate.disconnect();
  };

  return {
    voice(key, program, output) {
      let slot = slots.get(key);
      if (slot && (slot.program === 'drums') !== (program === 'drums')) {
        release(key);
        slot = undefined;
      }
      if (!slot) {
        const gate = context.createGain();
        gate.connect(output);
        slot = { ...freeChannel(program === 'drums'), program, gate, shut: false, bent: false };
        slots.set(key, slot);
        slot.synth.connectChannel(gate, slot.channel);
        setProgram(slot, program);
      } else if (slot.program !== program) {
        setProgram(slot, program);
      }
      const { synth, channel } = slot;
      const held = slot;
      return {
        noteOn(midi, velocity, time) {
          if (held.shut) held.gate.gain.setValueAtTime(1, Math.max(time, context.currentTime));
          held.shut = false;
          synth.noteOn(channel, midi, velocity, { time });
        },
        noteOff: (midi, time) => synth.noteOff(channel, midi, { time }),
        bend(semitones, time) {
          held.bent = semitones !== 0;
          const value = Math.round(8192 + (semitones / BEND_RANGE_SEMITONES) * 8191);
          synth.pitchWheel(channel, Math.max(0, Math.min(16383, value)), { time });
        },
        cut: (time) => synth.controllerChange(channel, 120, 0, { time }),
        silence() {
          // All notes off lets them ring out; "all sound off" stops what was planned.
          synth.controllerChange(channel, 120, 0);
          if (held.bent) synth.pitchWheel(channel, 8192);
          held.bent = false;
        },
      };
    },
    async told() {
      await Promise.all(synths.map((synth) => synth.told()));
    },
    silenceAll() {
      synths.forEach((synth) => synth.stopAll(true));
      for (const slot of slots.values()) {
        const { synth, channel, gate } = slot;
        if (slot.bent) synth.pitchWheel(channel, 8192);
        slot.bent = false;
        slot.shut = true;
        gate.gain.cancelScheduledValues(context.currentTime);
        gate.gain.setTargetAtTime(0, context.currentTime, GATE_SECONDS);
      }
    },
  };
}
