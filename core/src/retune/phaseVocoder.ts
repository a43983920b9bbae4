/**
 * Stretching of any sound by a phase vocoder: phases advance by what the sound itself does over one hop of the output
 * (measured between two frames that far apart, so no unwrapping and no drift where the speed changes), peaks lead and the
 * bins around them keep their distance to them (identity phase locking, Laroche & Dolson 1999). Phases are those of the
 * sum of the channels and turn all channels alike, so that what is in the middle stays there.
 */
import { createTransform, hannWindow, nextPowerOfTwo } from '../signal/index.ts';
import { createGrowing, type Growing } from './growing.ts';

/** Long enough to part the low notes of a chord; attacks are not left to it (see passage.ts). */
const WINDOW_SECONDS = 0.07;
const OVERLAP = 4;

export interface VocoderPlan {
  /** Sample of the input that is heard at a sample of the output; ascending. */
  inputAt(output: number): number;
  outputLength: number;
  /** Samples of the output at which phases start afresh, as in the input: onsets. */
  resets?: readonly number[];
}

/** Channels of equal length in, channels of `outputLength` out. Outside its ends the input counts as silence. */
export const vocode = (
  channels: readonly Float32Array[],
  sampleRateHz: number,
  plan: VocoderPlan,
): Float32Array[] => startVocoder(channels, sampleRateHz, plan)(plan.outputLength);

/**
 * The same from the start on, as far as it is asked for: what has been made is not made again.
 * @returns gives the output from its start on, of which as many samples are made as it is asked for, or more
 */
export function startVocoder(
  channels: readonly Float32Array[],
  sampleRateHz: number,
  { inputAt, outputLength, resets = [] }: VocoderPlan,
): (samples: number) => Float32Array[] {
  const size = nextPowerOfTwo(WINDOW_SECONDS * sampleRateHz);
  const hop = size / OVERLAP;
  const window = hannWindow(size);
  const out = channels.map(() => createGrowing(outputLength));
  const weight = createGrowing(outputLength);
  const frames = createFrames(channels, size, window);
  const rotation = createRotation(size);
  const pairs = createSynthesis(size, window);
  let nextReset = 0;
  let centre = -hop;
  let made = 0;

  const addFrame = () => {
    const at = Math.round(inputAt(centre)) | 0;
    let fresh = centre === -hop;
    while (nextReset < resets.length && resets[nextReset] <= centre) {
      fresh = true;
      nextReset++;
    }
    const { sum, before, spectra } = frames.analyse(at, hop);
    if (fresh) rotation.reset(sum);
    else rotation.advance(sum, before);
    const first = centre - size / 2;
    const weights = weight.upTo(first + size);
    for (let i = Math.max(0, -first); i < Math.min(size, outputLength - first); i++)
      weights[first + i] += window[i] * window[i];
    spectra.forEach((spectrum, c) => rotation.turn(spectrum, pairs.next(out[c], first)));
    centre += hop;
  };

  return (samples) => {
    const end = outputLength + hop;
    // Two frames share a transform, so they come in twos, wherever one stops in between.
    while (centre < end && centre - size / 2 < Math.min(samples, outputLength)) {
      addFrame();
      if (centre < end) addFrame();
    }
    pairs.flush();
    const ready = centre < end ? Math.min(outputLength, Math.max(made, centre - size / 2)) : outputLength;
    const channelsSoFar = out.map((channel) => channel.upTo(ready));
    const weights = weight.upTo(ready);
    for (const channel of channelsSoFar)
      for (let i = made; i < ready; i++) if (weights[i] > 1e-6) channel[i] /= weights[i];
    made = ready;
    return channelsSoFar;
  };
}

/**
 * Spectra of frames around a sample. Two real frames share one complex transform: the sum of the channels at a place and
 * one hop before it, or two channels.
 */
function createFrames(channels: readonly Float32Array[], size: number, window: Float32Array) {
  const transform = createTransform(size);
  const input = transform.createComplex();
  const output = transform.createComplex();
  const spectra = channels.map(() => transform.createComplex());
  const before = transform.createComplex();
  const sum = channels.length === 1 ? spectra[0] : transform.createComplex();

  const length = channels[0]?.length ?? 0;
  const load = (loaded: readonly Float32Array[], centre: number, part: 0 | 1) => {
    const first = centre - size / 2;
    const from = Math.min(size, Math.max(0, -first)) | 0;
    const to = Math.max(from, Math.min(size, length - first)) | 0;
    for (let i = 0; i < size; i++) input[2 * i + part] = 0;
    // Summed frame by frame: a take may be long, and what is asked for of it short.
    for (const samples of loaded)
      for (let i = from; i < to; i++) input[2 * i + part] += window[i] * samples[first + i];
  };
  const split = (first: number[], second: number[]) => {
    transform.forward(output, input);
    splitSpectra(output, size, first, second);
  };
  return {
    /** Fills `sum` (of all channels at `centre`), `before` (one hop earlier) and the spectra of the channels. */
    analyse(centre: number, hop: number): { sum: number[]; before: number[]; spectra: number[][] } {
      load(channels, centre, 0);
      load(channels, centre - hop, 1);
      split(sum, before);
      if (channels.length > 1) {
        for (let c = 0; c < channels.length; c += 2) {
          load([channels[c]], centre, 0);
          load([channels[Math.min(c + 1, channels.length - 1)]], centre, 1);
          split(spectra[c], spectra[Math.min(c + 1, channels.length - 1)]);
        }
      }
      return { sum, before, spectra };
    },
  };
}

/** Of two real signals transformed as real and imaginary part; bins 0 … size / 2. */
function splitSpectra(both: number[], size: number, first: number[], second: number[]): void {
  for (let k = 0; k <= size / 2; k++) {
    const mirror = k === 0 ? 0 : size - k;
    const re = both[2 * k];
    const im = both[2 * k + 1];
    const mirrorRe = both[2 * mirror];
    const mirrorIm = both[2 * mirror + 1];
    first[2 * k] = (re + mirrorRe) / 2;
    first[2 * k + 1] = (im - mirrorIm) / 2;
    second[2 * k] = (im + mirrorIm) / 2;
    second[2 * k + 1] = (mirrorRe - re) / 2;
  }
}

/** Adds windowed frames to outputs. Two real frames share one complex transform, as its real and imaginary part. */
function createSynthesis(size: number, window: Float32Array) {
  const transform = createTransform(size);
  const both = transform.createComplex();
  const made = transform.createComplex();
  const spectra = [new Float64Array(size + 2), new Float64Array(size + 2)];
  const places: { to: Growing; first: number }[] = [];

  const add = (part: 0 | 1) => {
    const { to, first } = places[part];
    const out = to.upTo(first + size);
    for (let i = Math.max(0, -first); i < Math.min(size, out.length - first); i++)
      out[first + i] += made[2 * i + part] * window[i];
  };
  const run = () => {
    const [a, b] = spectra;
    if (places.length === 1) b.fill(0);
    for (let k = 0; k <= size / 2; k++) {
      const mirror = k === 0 ? 0 : size - k;
      const aRe = a[2 * k];
      const aIm = a[2 * k + 1];
      const bRe = b[2 * k];
      const bIm = b[2 * k + 1];
      // The conjugate half first: the ends, which are their own mirror, must hold the plain one.
      both[2 * mirror] = aRe + bIm;
      both[2 * mirror + 1] = bRe - aIm;
      both[2 * k] = aRe - bIm;
      both[2 * k + 1] = aIm + bRe;
    }
    transform.inverse(made, both);
    add(0);
    if (places.length > 1) add(1);
    places.length = 0;
  };
  return {
    /** Room for a spectrum that is added to an output from sample `first` on. */
    next(to: Growing, first: number): Float64Array {
      if (places.length === 2) run();
      places.push({ to, first });
      return spectra[places.length - 1];
    },
    flush() {
      if (places.length > 0) run();
    },
  };
}

/** By how much each bin is turned, as a unit complex number; kept from frame to frame. */
function createRotation(size: number) {
  const bins = size / 2 + 1;
  let re = new Float64Array(bins).fill(1);
  let im = new Float64Array(bins);
  let nextRe = new Float64Array(bins);
  let nextIm = new Float64Array(bins);
  const power = new Float64Array(bins);
  const heard = new Float64Array(2 * bins);

  return {
    reset(now: number[]) {
      re.fill(1);
      im.fill(0);
      remember(now);
    },
    /** `now`: this frame; `before`: the input one hop earlier. */
    advance(now: number[], before: number[]) {
      for (let k = 0; k < bins; k++) power[k] = now[2 * k] ** 2 + now[2 * k + 1] ** 2;
      let from = 0;
      for (let peak = nextPeak(power, 0); peak >= 0;) {
        const following = nextPeak(power, peak + 1);
        const to = following < 0 ? bins : valley(power, peak, following);
        // Where the output stood one hop ago, divided by where the input stood: that is the turn that goes on.
        const turnRe = re[peak];
        const turnIm = im[peak];
        const previousRe = heard[2 * peak];
        const previousIm = heard[2 * peak + 1];
        let r = turnRe;
        let i = turnIm;
        if (previousRe !== 0 || previousIm !== 0) {
          r = previousRe * before[2 * peak] + previousIm * before[2 * peak + 1];
          i = previousIm * before[2 * peak] - previousRe * before[2 * peak + 1];
          const length = Math.sqrt(r * r + i * i);
          r = length > 1e-12 ? r / length : turnRe;
          i = length > 1e-12 ? i / length : turnIm;
        }
        for (let k = from; k < to; k++) {
          nextRe[k] = r;
          nextIm[k] = i;
        }
        from = to;
        peak = following;
      }
      for (let k = from; k < bins; k++) {
        nextRe[k] = re[k];
        nextIm[k] = im[k];
      }
      [re, nextRe] = [nextRe, re];
      [im, nextIm] = [nextIm, im];
      remember(now);
    },
    /** Writes the turned spectrum, bins 0 … size / 2. */
    turn(spectrum: number[], turned: Float64Array) {
      for (let k = 0; k < bins; k++) {
        const a = spectrum[2 * k];
        const b = spectrum[2 * k + 1];
        turned[2 * k] = a * re[k] - b * im[k];
        turned[2 * k + 1] = a * im[k] + b * re[k];
      }
    },
  };

  function remember(now: number[]) {
    for (let k = 0; k < bins; k++) {
      heard[2 * k] = now[2 * k] * re[k] - now[2 * k + 1] * im[k];
      heard[2 * k + 1] = now[2 * k] * im[k] + now[2 * k + 1] * re[k];
    }
  }
}

/** First bin from `from` on that is larger than its two neighbours on each side; −1: none. */
function nextPeak(power: Float64Array, from: number): number {
  for (let k = Math.max(2, from); k + 2 < power.length; k++) {
    const p = power[k];
    if (p > power[k - 1] && p > power[k - 2] && p >= power[k + 1] && p >= power[k + 2]) return k;
  }
  return -1;
}

function valley(power: Float64Array, from: number, to: number): number {
  let best = from + 1;
  for (let k = from + 1; k <= to; k++) if (power[k] < power[best]) best = k;
  return best;
}
