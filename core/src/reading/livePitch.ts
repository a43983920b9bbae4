/**
 * The pitch of what sounds now, from a stream: for a tuner and for seeing what is sung. The same difference function and
 * candidates as the melody reader, without what needs the future.
 */
import { createResampler, median, type Hertz, type Seconds } from '../signal/index.ts';
import { hzToMidi, midiToHz } from '../theory/index.ts';
import { createDifferenceFunction } from './differenceFunction.ts';
import { HOP_SAMPLES, READING_HZ } from './melodySettings.ts';
import { CANDIDATES, writeCandidates } from './pitchCandidates.ts';

export interface LivePitch {
  /** Of the middle of the window, from the first sample on. */
  seconds: Seconds;
  /** Fractional MIDI note at A4 = 440 Hz; undefined where nothing with a pitch sounds. */
  midi: number | undefined;
}

export interface LivePitchStream {
  /** Adds mono samples; gives what can be said since: a value every 11.6 ms. */
  push(samples: Float32Array): LivePitch[];
}

export interface LivePitchRange {
  lowestHz: Hertz;
  highestHz: Hertz;
  /** The pitch holds still: the period is measured over as many of its multiples as fit. */
  steady?: true;
}

/** A tuner: from below the lowest string of a five-string bass to the top of a guitar. */
const TUNER_RANGE: LivePitchRange = { lowestHz: 24, highestHz: 1650, steady: true };
/** A voice: as the melody reader's. */
export const VOICE_RANGE: LivePitchRange = { lowestHz: 62, highestHz: 1250 };

/** What differs from itself by more than this is noise or between two notes. */
const LEAST_PERIODIC = 0.25;
/** Root mean square below this is silence: −60 dB. */
const SILENCE = 0.001;
/** A window holds so many periods of the lowest pitch, and at least so many samples. */
const WINDOW_PERIODS = 1.6;
const SHORTEST_WINDOW = 1024;

/** @param sampleRateHz of what comes in */
export function createLivePitch(
  sampleRateHz: Hertz,
  { lowestHz, highestHz, steady }: LivePitchRange,
): LivePitchStream {
  const resampler = createResampler(sampleRateHz, READING_HZ);
  const longestLag = Math.ceil(READING_HZ / lowestHz) + 2;
  const shortestLag = Math.max(3, Math.floor(READING_HZ / highestHz));
  const window =
    Math.ceil(Math.max(SHORTEST_WINDOW, (WINDOW_PERIODS * READING_HZ) / lowestHz) / HOP_SAMPLES) *
    HOP_SAMPLES;
  const difference = createDifferenceFunction(window, longestLag);
  const needed = difference.frameSamples + HOP_SAMPLES;
  let held = new Float32Array(0);
  let frame = 0;
  const outs = [new Float32Array(longestLag + 1), new Float32Array(longestLag + 1)];
  const midi = new Float32Array(CANDIDATES);
  const probability = new Float32Array(CANDIDATES);

  const pitchOf = (normalised: Float32Array, samples: Float32Array): number | undefined => {
    let energy = 0;
    for (const value of samples) energy += value * value;
    if (energy < SILENCE * SILENCE * samples.length) return undefined;
    if (writeCandidates(normalised, shortestLag, longestLag, midi, probability, 0) > LEAST_PERIODIC)
      return undefined;
    let best = 0;
    for (let k = 1; k < CANDIDATES; k++) if (probability[k] > probability[best]) best = k;
    if (probability[best] === 0) return undefined;
    if (!steady) return midi[best];
    const period = wholePeriod(normalised, READING_HZ / midiToHz(midi[best]));
    return hzToMidi(READING_HZ / overMultiples(normalised, period));
  };

  return {
    push(samples) {
      const more = resampler.push(samples);
      const joined = new Float32Array(held.length + more.length);
      joined.set(held);
      joined.set(more, held.length);
      const found: LivePitch[] = [];
      let at = 0;
      // Frames come in pairs, see differenceFunction.ts.
      for (; joined.length - at >= needed; at += 2 * HOP_SAMPLES, frame += 2) {
        difference.pair(joined, at, frame, outs[0], outs[1]);
        for (const [k, out] of outs.entries()) {
          const start = at + k * HOP_SAMPLES;
          found.push({
            seconds: ((frame + k) * HOP_SAMPLES + difference.frameSamples / 2) / READING_HZ,
            midi: pitchOf(out, joined.subarray(start, start + window)),
          });
        }
      }
      held = joined.slice(at);
      return found;
    },
  };
}

/** Far out a short period is sampled finely enough to be told from its double. */
const TELLING_MULTIPLE = 8;
const DIVISORS = [2, 3];

/** A high note whose period lies between two samples looks more alike at two or three periods: the shortest that repeats counts. */
function wholePeriod(normalised: Float32Array, period: number): number {
  for (const divisor of DIVISORS) {
    const shorter = period / divisor;
    const lag = Math.round((TELLING_MULTIPLE * divisor + 1) * shorter);
    if (lag + 1 >= normalised.length) continue;
    if (Math.min(normalised[lag - 1], normalised[lag], normalised[lag + 1]) < LEAST_PERIODIC) return shorter;
  }
  return period;
}

/** The period from ever larger multiples of it: what one is measured wrong by is divided by their number. */
function overMultiples(normalised: Float32Array, first: number): number {
  let period = first;
  for (let multiple = 2; multiple * period < normalised.length - 3; multiple *= 2) {
    const guess = Math.round(multiple * period);
    let at = guess;
    for (let lag = guess - 2; lag <= guess + 2; lag++) if (normalised[lag] < normalised[at]) at = lag;
    const [before, middle, after] = [normalised[at - 1], normalised[at], normalised[at + 1]];
    const bend = before - 2 * middle + after;
    if (middle > before || middle > after || middle > LEAST_PERIODIC || bend <= 0) break;
    period = (at + (0.5 * (before - after)) / bend) / multiple;
  }
  return period;
}

export interface TunerReading {
  /** Nearest note and how far the sound lies from it, by the reference. */
  midi: number;
  cents: number;
  hz: Hertz;
}

/** What a needle shows is the middle of this much time: longer is steadier, shorter follows faster. */
const STEADY_SECONDS = 0.15;
/** Values that must agree within it, and how far apart they may lie. */
const LEAST_VALUES = 5;
const SAME_NOTE_SEMITONES = 0.5;

/**
 * A needle that stands still: the median of what was heard last. Undefined while nothing steady sounds.
 * @param a4Hz reference, 415–466
 */
export function createTuner(sampleRateHz: Hertz, a4Hz: () => Hertz) {
  const stream = createLivePitch(sampleRateHz, TUNER_RANGE);
  let recent: LivePitch[] = [];
  return {
    push(samples: Float32Array): TunerReading | undefined {
      recent.push(...stream.push(samples));
      const last = recent.at(-1)?.seconds ?? 0;
      recent = recent.filter(({ seconds }) => seconds > last - STEADY_SECONDS);
      const heard = recent.flatMap((each) => each.midi ?? []);
      if (heard.length < LEAST_VALUES) return undefined;
      const middle = median(heard);
      const near = heard.filter((each) => Math.abs(each - middle) < SAME_NOTE_SEMITONES);
      if (near.length < LEAST_VALUES || 2 * near.length < recent.length) return undefined;
      const steady = median(near);
      const byReference = steady - hzToMidi(a4Hz()) + 69;
      const midi = Math.round(byReference);
      return { midi, cents: (byReference - midi) * 100, hz: midiToHz(steady) };
    },
  };
}

/** Open strings by their notes: six of a guitar, and four of a bass with the low fifth. */
const STRINGS: Record<number, string> = {
  64: 'guitar, 1st string',
  59: 'guitar, 2nd string',
  55: 'guitar, 3rd string',
  50: 'guitar, 4th string',
  45: 'guitar, 5th string',
  40: 'guitar, 6th string',
  43: 'bass, 1st string',
  38: 'bass, 2nd string',
  33: 'bass, 3rd string',
  28: 'bass, 4th string',
  23: 'bass, 5th string',
};

/** The open string that sounds this note in standard tuning; undefined where none does. */
export const stringOf = (midi: number): string | undefined => STRINGS[midi];
