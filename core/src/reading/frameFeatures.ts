/**
 * First stage of the melody reader: a stream of mono samples becomes, for each frame of 11.6 ms, a handful of
 * pitch candidates, the loudness and the onset strength. Everything later works on these few numbers, so a
 * recording of hours needs little memory.
 */
import { FRAMES_AT_ONCE } from '../signal/index.ts';
import { hzToMidi } from '../theory/index.ts';
import { GrowingFloats } from './growing.ts';
import { createDifferenceFunction } from './differenceFunction.ts';
import { supportBelow, supportCandidates } from './harmonicSupport.ts';
import { ENVELOPE_HOP_SAMPLES, HOP_SAMPLES, READING_HZ, type KindSettings } from './melodySettings.ts';
import { CANDIDATES, writeCandidates } from './pitchCandidates.ts';
import { sharpenCandidates } from './sharpenPitch.ts';
import { BAND_COUNT, writeBandLevels } from './spectralBands.ts';
import { createRoomFilter, ROOM_HOP } from './roomFilter.ts';
import { createSpectralFlux } from './spectralFlux.ts';

export interface FrameFeatures {
  frames: number;
  /** `CANDIDATES` fractional MIDI notes a frame. */
  candidateMidi: Float32Array;
  candidateProbability: Float32Array;
  /** Deepest value of the difference function, 0 periodic – 1 noise or silence. */
  aperiodicity: Float32Array;
  /** Root mean square over 23 ms in dB below full scale. */
  levelDb: Float32Array;
  onsetStrength: Float32Array;
  /** `BAND_COUNT` levels a frame in dB below full scale. */
  bandsDb: Float32Array;
  /** Largest amplitude of each {@link ENVELOPE_HOP_SAMPLES}, from the first sample on. */
  envelope: Float32Array;
  /** How much of a hall was heard around a voice, 0 dry – 1; 0 for what is not sung. */
  hall: number;
  /** Whether it was read as a voice. */
  sung: boolean;
}

export interface FeatureStream {
  /** Adds mono samples at {@link READING_HZ}; values that are not finite count as 0. */
  push(samples: Float32Array): void;
  finish(): FrameFeatures;
}

/** Samples on each side of a frame's centre over which loudness is taken. */
const LEVEL_HALF = 256;
const SILENCE_DB = -120;
/** Below this level no pitch is looked for: the noise floor of a 14-bit recording. */
const PITCH_FLOOR_DB = -78;
/** Pole of the filter that takes a constant offset away: a cut at about 9 Hz, far below the lowest bass. */
const OFFSET_POLE = 0.9975;
/** Frames are taken in pairs (see differenceFunction); a block holds several pairs. */
const BLOCK_FRAMES = 64;

export function createFeatureStream(kind: KindSettings): FeatureStream {
  const longestLag = Math.ceil(READING_HZ / kind.lowestHz) + 2;
  const shortestLag = Math.max(3, Math.floor(READING_HZ / kind.highestHz));
  const difference = createDifferenceFunction(kind.windowSamples, longestLag);
  const flux = createSpectralFlux({ withAmplitudes: true });
  const room = kind.sung ? createRoomFilter() : undefined;
  const highestMidi = hzToMidi(kind.highestHz);
  // A difference frame at offset 0 is centred on its window plus about half a middle lag.
  const differenceLead = Math.round(kind.windowSamples / 2 + longestLag / 6);
  const margin =
    Math.max(
      differenceLead,
      difference.frameSamples - differenceLead,
      flux.frameSamples / 2,
      room?.latencySamples ?? 0,
    ) + 1;

  const midi = new GrowingFloats();
  const probability = new GrowingFloats();
  const aperiodicity = new GrowingFloats();
  const levelDb = new GrowingFloats();
  const onsetStrength = new GrowingFloats();
  const bandsDb = new GrowingFloats();
  const envelope = new GrowingFloats();
  const normalisedA = new Float32Array(longestLag + 1);
  const normalisedB = new Float32Array(longestLag + 1);

  const blockSamples = BLOCK_FRAMES * HOP_SAMPLES;
  let held = new Float32Array(margin * 2 + blockSamples * 2);
  let heldCount = margin; // Silence before the start.
  /** The same without the tail of the room; what lies before `cleanCount` is final. */
  let clean = room ? new Float32Array(held.length) : held;
  let cleanCount = 0;
  let received = 0;
  const removeOffset = createOffsetFilter();
  let frames = 0;

  const level = (centre: number): number => {
    let sum = 0;
    for (let i = centre - LEVEL_HALF; i < centre + LEVEL_HALF; i++) sum += held[i] * held[i];
    return sum > 0 ? Math.max(SILENCE_DB, 10 * Math.log10(sum / (2 * LEVEL_HALF))) : SILENCE_DB;
  };

  const fourOffsets = Array.from({ length: FRAMES_AT_ONCE }, (_, i) => i * HOP_SAMPLES);
  let strengths: number[] = [];

  const runBlock = (count: number) => {
    for (let frame = 0; frame < count; frame += 2) {
      const first = margin + frame * HOP_SAMPLES;
      const second = first + HOP_SAMPLES;
      const firstDb = level(first);
      const secondDb = level(second);
      const at = midi.length;
      const half = flux.frameSamples / 2;
      // Flux is taken for four frames at once.
      const inFour = frame % FRAMES_AT_ONCE;
      if (inFour === 0) {
        const offsets = fourOffsets.slice(0, count - frame).map((offset) => first - half + offset);
        strengths = flux.run(held, offsets);
      }
      const midiOut = midi.extend(2 * CANDIDATES);
      const probabilityOut = probability.extend(2 * CANDIDATES);
      if (Math.max(firstDb, secondDb) > PITCH_FLOOR_DB) {
        difference.pair(clean, first - differenceLead, frames + frame, normalisedA, normalisedB);
        const last = longestLag - 1;
        aperiodicity.push(writeCandidates(normalisedA, shortestLag, last, midiOut, probabilityOut, at));
        aperiodicity.push(
          writeCandidates(normalisedB, shortestLag, last, midiOut, probabilityOut, at + CANDIDATES),
        );
        for (let i = 0; i < 2; i++) {
          const frameAt = at + i * CANDIDATES;
          const amplitude = flux.amplitudes[inFour + i];
          const middle = first + i * HOP_SAMPLES;
          supportCandidates(
            amplitude,
            flux.frameSamples,
            midiOut,
            probabilityOut,
            frameAt,
            highestMidi,
            kind.sung,
          );
          supportBelow(amplitude, flux.frameSamples, midiOut, probabilityOut, frameAt, kind.sung);
          if (!kind.sung) continue;
          sharpenCandidates(clean, middle, kind.windowSamples, midiOut, probabilityOut, frameAt);
        }
      } else {
        aperiodicity.push(1);
        aperiodicity.push(1);
        probabilityOut.fill(0, at, at + 2 * CANDIDATES);
      }
      const bandsAt = bandsDb.length;
      const bandsOut = bandsDb.extend(2 * BAND_COUNT);
      for (let i = 0; i < 2; i++)
        writeBandLevels(flux.amplitudes[inFour + i], flux.frameSamples, bandsOut, bandsAt + i * BAND_COUNT);
      pushEnvelope(envelope, held, first);
      pushEnvelope(envelope, held, second);
      levelDb.push(firstDb);
      levelDb.push(secondDb);
      onsetStrength.push(strengths[inFour]);
      onsetStrength.push(strengths[inFour + 1]);
    }
    frames += count;
    held.copyWithin(0, count * HOP_SAMPLES, heldCount);
    heldCount -= count * HOP_SAMPLES;
    if (!room) return;
    clean.copyWithin(0, count * HOP_SAMPLES);
    clean.fill(0, clean.length - count * HOP_SAMPLES);
    cleanCount -= count * HOP_SAMPLES;
  };

  const ready = () => {
    if (!room) return;
    for (; cleanCount + room.latencySamples <= heldCount; cleanCount += ROOM_HOP)
      room.frame(held, cleanCount, clean);
  };

  const append = (samples: Float32Array | number) => {
    const count = typeof samples === 'number' ? samples : samples.length;
    if (heldCount + count > held.length) {
      const grown = new Float32Array(Math.max(held.length * 2, heldCount + count));
      grown.set(held.subarray(0, heldCount));
      held = grown;
      if (room) {
        const longer = new Float32Array(held.length);
        longer.set(clean);
        clean = longer;
      } else clean = held;
    }
    if (typeof samples === 'number') held.fill(0, heldCount, heldCount + count);
    else removeOffset(samples, held, heldCount);
    heldCount += count;
    ready();
    while ((room ? cleanCount : heldCount) >= margin * 2 + blockSamples) runBlock(BLOCK_FRAMES);
  };

  return {
    push(samples) {
      received += samples.length;
      // In pieces: what is held moves up after every block, and little of it moves fast.
      for (let at = 0; at < samples.length; at += blockSamples)
        append(samples.subarray(at, at + blockSamples));
    },
    finish() {
      const wanted = received === 0 ? 0 : Math.floor(received / HOP_SAMPLES) + 1;
      const rest = wanted - frames;
      if (rest > 0) {
        append(margin * 2 + (rest + 1) * HOP_SAMPLES + (room?.latencySamples ?? 0));
        if (frames < wanted) runBlock(wanted - frames + ((wanted - frames) % 2));
      }
      return {
        frames: wanted,
        candidateMidi: midi.values().subarray(0, wanted * CANDIDATES),
        candidateProbability: probability.values().subarray(0, wanted * CANDIDATES),
        aperiodicity: aperiodicity.values().subarray(0, wanted),
        levelDb: levelDb.values().subarray(0, wanted),
        onsetStrength: onsetStrength.values().subarray(0, wanted),
        bandsDb: bandsDb.values().subarray(0, wanted * BAND_COUNT),
        envelope: envelope.values().subarray(0, (wanted * HOP_SAMPLES) / ENVELOPE_HOP_SAMPLES),
        hall: room?.hall() ?? 0,
        sung: kind.sung === true,
      };
    },
  };
}

/** A high pass that takes a constant offset away, from the first sample on; what is not finite counts as 0. */
function createOffsetFilter(): (samples: Float32Array, out: Float32Array, at: number) => void {
  let started = false;
  const state = new Float64Array(2);
  return (samples, out, at) => {
    if (!started && samples.length > 0) {
      state[0] = Number.isFinite(samples[0]) ? samples[0] : 0;
      started = true;
    }
    let [lastInput, lastOutput] = state;
    for (let i = 0; i < samples.length; i++) {
      const sample = Number.isFinite(samples[i]) ? samples[i] : 0;
      lastOutput = sample - lastInput + OFFSET_POLE * lastOutput;
      lastInput = sample;
      out[at + i] = lastOutput;
    }
    state[0] = lastInput;
    state[1] = lastOutput;
  };
}

/** The peaks of one hop of samples. */
function pushEnvelope(envelope: GrowingFloats, samples: Float32Array, first: number): void {
  for (let from = first; from < first + HOP_SAMPLES; from += ENVELOPE_HOP_SAMPLES) {
    let peak = 0;
    for (let i = from; i < from + ENVELOPE_HOP_SAMPLES; i++) {
      const amplitude = Math.abs(samples[i]);
      if (amplitude > peak) peak = amplitude;
    }
    envelope.push(peak);
  }
}
