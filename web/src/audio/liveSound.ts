/** Sounds that are played by hand while the song rests or runs: a note that is dragged, a chord that is tried, keys. */
import type { Sound } from './instruments.ts';
import type { Sampler, SamplerVoice } from './sampler.ts';

export interface LiveOutput {
  context: AudioContext;
  sampler: Sampler;
  /** Where the sound of a voice goes. */
  output(key: string): AudioNode;
}

const PREVIEW_KEY = 'preview';
const HELD_KEY = 'held';
export const LIVE_KEYS: ReadonlySet<string> = new Set([PREVIEW_KEY, HELD_KEY]);

export function createLiveSound(open: () => Promise<LiveOutput>, problem: (error: unknown) => void) {
  /** How many keys hold each pitch: it ends with the last of them. */
  const holders = new Map<number, number>();
  const voiceOf = async (key: string, program: Sound) => {
    const { context, sampler, output } = await open();
    return { context, voice: sampler.voice(key, program, output(key)) };
  };

  /** Sounds a note or a chord for a while; what was tried before ends. */
  const preview = async (
    midi: number | readonly number[],
    velocity: number,
    program: Sound,
    seconds = 0.45,
  ): Promise<void> => {
    try {
      const { context, voice } = await voiceOf(PREVIEW_KEY, program);
      voice.silence();
      const now = context.currentTime;
      for (const each of typeof midi === 'number' ? [midi] : midi) {
        voice.noteOn(Math.round(each), velocity, now);
        voice.noteOff(Math.round(each), now + seconds);
      }
    } catch (error) {
      problem(error);
    }
  };

  /** Sounds notes until the function that it returns is called. */
  const hold = (midis: readonly number[], velocity: number, program: Sound): (() => void) => {
    let held = true;
    let sounding: { context: AudioContext; voice: SamplerVoice } | undefined;
    voiceOf(HELD_KEY, program).then((ready) => {
      // Let go before the sounds were there: nothing is heard late.
      if (!held) return;
      sounding = ready;
      for (const midi of midis) {
        holders.set(midi, (holders.get(midi) ?? 0) + 1);
        ready.voice.noteOn(midi, velocity, ready.context.currentTime);
      }
    }, problem);
    return () => {
      held = false;
      if (!sounding) return;
      const { context, voice } = sounding;
      sounding = undefined;
      for (const midi of midis) {
        const left = (holders.get(midi) ?? 1) - 1;
        holders.set(midi, left);
        if (left === 0) voice.noteOff(midi, context.currentTime);
      }
    };
  };

  /** Bends what is held, and what will be. */
  const bend = (semitones: number, program: Sound): void =>
    void voiceOf(HELD_KEY, program).then(
      ({ context, voice }) => voice.bend(semitones, context.currentTime),
      problem,
    );
  return { preview, hold, bend };
}
