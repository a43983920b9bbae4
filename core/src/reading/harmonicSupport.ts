/**
 * A difference function also dips at two and three periods; in a room, or where several voices beat against each
 * other, deeper than at the true one. The spectrum tells them apart: a pitch an octave too low claims odd harmonics
 * that do not sound (the idea of the subharmonic-to-harmonic ratio, Sun 2002).
 */
import { CANDIDATES } from './pitchCandidates.ts';
import { midiToHz } from '../theory/index.ts';
import { READING_HZ } from './melodySettings.ts';

/** Harmonics of a candidate that are looked at. */
const HARMONICS = 12;
const HIGHEST_HZ = 5000;
/** Amplitude of the harmonics that only the lower pitch has, relative to the others: absent … surely there. */
const ABSENT = 0.1;
const PRESENT = 0.3;
/** Harmonics that only the pitch an octave or a twelfth lower has, and the spacing in bins from which they can be told from their neighbours. */
const OWN_HARMONICS = { 2: [1, 3], 3: [1, 2, 4] } as const;
const MIN_RESOLVED_BINS = 6;
/** They must reach this share of the others beside them, and this many doublings above what lies between. */
const MIN_SHARE = 0.05;
const MIN_DOUBLINGS = 0.7;
/** The same where no vowel can have lifted the second: strings that sound along, and an organ's lower stops, stand out a little. */
const MIN_DOUBLINGS_PLAYED = 1.7;
/** Candidates less likely than this have nothing to give. */
const MIN_GIVEN = 0.05;
const SAME_SEMITONES = 0.3;
/** In bins: the harmonics of a pitch this low run into each other. */
const MIN_SPACING_BINS = 3.5;

/**
 * Moves probability of candidates whose own harmonics are absent to the double or triple frequency, in place.
 * `amplitude`: magnitude spectrum of the frame, `size` / 2 bins; `highestMidi`: no candidate above it is made; `sung`: a vowel
 * may have lifted the others, so that what stands out clearly is enough.
 */
export function supportCandidates(
  amplitude: Float32Array,
  size: number,
  midi: Float32Array,
  probability: Float32Array,
  offset: number,
  highestMidi: number,
  sung = false,
): void {
  const binsPerHz = size / READING_HZ;
  for (let k = 0; k < CANDIDATES; k++) {
    const mass = probability[offset + k];
    if (mass < 0.02) continue;
    const spacing = midiToHz(midi[offset + k]) * binsPerHz;
    if (spacing < MIN_SPACING_BINS) continue;
    let worst = 1;
    let multiple: 2 | 3 = 2;
    for (const m of [2, 3] as const) {
      const share = ownShare(amplitude, spacing, m, HIGHEST_HZ * binsPerHz);
      if (share < worst) {
        worst = share;
        multiple = m;
      }
    }
    let kept = Math.min(1, Math.max(0, (worst - ABSENT) / (PRESENT - ABSENT)));
    if (kept >= 1) continue;
    // A vowel may drown them.
    if (sung) kept = Math.max(kept, standingOut(amplitude, spacing, multiple, MIN_DOUBLINGS));
    const higher = midi[offset + k] + 12 * Math.log2(multiple);
    if (higher > highestMidi) continue;
    probability[offset + k] = mass * kept;
    give(midi, probability, offset, higher, mass * (1 - kept));
  }
}

/**
 * The other way round, in place: a vowel, or the bore of an oboe or a bassoon, may lift the second harmonic so far above its
 * neighbours that the octave above looks periodic enough, or the third. Where the other harmonics stand out nevertheless, its
 * probability goes to the candidate an octave or a twelfth below.
 */
export function supportBelow(
  amplitude: Float32Array,
  size: number,
  midi: Float32Array,
  probability: Float32Array,
  offset: number,
  sung = false,
): void {
  const binsPerHz = size / READING_HZ;
  const minDoublings = sung ? MIN_DOUBLINGS : MIN_DOUBLINGS_PLAYED;
  for (let k = offset; k < offset + CANDIDATES; k++) {
    if (probability[k] < MIN_GIVEN) continue;
    for (let below = offset; below < offset + CANDIDATES; below++) {
      if (probability[below] <= 0) continue;
      const multiple = ([2, 3] as const).find(
        (m) => Math.abs(midi[k] - 12 * Math.log2(m) - midi[below]) < SAME_SEMITONES,
      );
      if (!multiple) continue;
      const spacing = (midiToHz(midi[k]) * binsPerHz) / multiple;
      const given = probability[k] * standingOut(amplitude, spacing, multiple, minDoublings);
      probability[k] -= given;
      probability[below] += given;
    }
  }
}

/**
 * How clearly peaks stand at the harmonics of a spacing that are not multiples of `m`, above what lies halfway to their
 * neighbours by more than `minDoublings`: 0–1.
 */
function standingOut(amplitude: Float32Array, spacing: number, m: 2 | 3, minDoublings: number): number {
  const own = OWN_HARMONICS[m];
  if (spacing < MIN_RESOLVED_BINS || (own[own.length - 1] + 1.5) * spacing >= amplitude.length) return 0;
  const near = (place: number) => {
    const bin = Math.round(place);
    return Math.max(amplitude[bin - 1], amplitude[bin], amplitude[bin + 1]);
  };
  let least = Infinity;
  for (const h of own) {
    const below = m * Math.floor(h / m);
    const others = Math.max(near((below + m) * spacing), below > 0 ? near(below * spacing) : 0);
    const peak = near(h * spacing);
    if (peak < MIN_SHARE * others) return 0;
    const valley = Math.max(near((h - 0.5) * spacing), near((h + 0.5) * spacing));
    least = Math.min(least, Math.log2(peak / (valley + 1e-9)) - minDoublings);
  }
  return Math.min(1, Math.max(0, least));
}

/** Amplitude at harmonics that are not multiples of `m`, relative to those that are; means of both. */
function ownShare(amplitude: Float32Array, spacing: number, m: number, lastBin: number): number {
  let own = 0;
  let ownCount = 0;
  let shared = 0;
  let sharedCount = 0;
  for (let h = 1; h <= HARMONICS && h * spacing < lastBin; h++) {
    const bin = Math.round(h * spacing);
    const value = Math.max(amplitude[bin - 1], amplitude[bin], amplitude[bin + 1]);
    if (h % m === 0) {
      shared += value;
      sharedCount++;
    } else {
      own += value;
      ownCount++;
    }
  }
  if (sharedCount === 0 || shared === 0) return 1;
  return own / ownCount / (shared / sharedCount);
}

function give(
  midi: Float32Array,
  probability: Float32Array,
  offset: number,
  note: number,
  mass: number,
): void {
  let weakest = 0;
  for (let k = 0; k < CANDIDATES; k++) {
    if (probability[offset + k] > 0 && Math.abs(midi[offset + k] - note) < 0.3) {
      probability[offset + k] += mass;
      return;
    }
    if (probability[offset + k] < probability[offset + weakest]) weakest = k;
  }
  if (mass > probability[offset + weakest]) {
    midi[offset + weakest] = note;
    probability[offset + weakest] = mass;
  }
}
