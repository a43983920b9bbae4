/** What a microphone hears beside the music: clicks of keys and lips, knocks on a stand or a body, a page. Short, and no note. */
import { gaussian, type Random } from '@plundra/core/signal';

const FEWEST = 2;
const MOST = 14;
/** Peaks beside the root mean square of the recording. */
const SOFTEST_DB = -12;
const LOUDEST_DB = 14;

/** Adds a few to mono samples, in place. */
export function addKnocks(samples: Float32Array, rateHz: number, random: Random): void {
  let energy = 0;
  for (const value of samples) energy += value * value;
  const level = Math.sqrt(energy / Math.max(1, samples.length));
  const count = FEWEST + Math.floor((MOST - FEWEST + 1) * random());
  for (let k = 0; k < count; k++) {
    const gain = level * 10 ** ((SOFTEST_DB + (LOUDEST_DB - SOFTEST_DB) * random()) / 20);
    addKnock(samples, Math.floor(random() * samples.length), gain, rateHz, random);
  }
}

/** Noise that rings at one place of the spectrum, from a thump to a hiss, and dies within 1 to 25 ms. */
function addKnock(samples: Float32Array, at: number, gain: number, rateHz: number, random: Random): void {
  const decaySeconds = 0.001 * 25 ** random();
  const angle = 2 * Math.PI * Math.min(0.45, (90 * 60 ** random()) / rateHz);
  const radius = 0.5 + 0.45 * random();
  const ringing = new Float32Array(Math.ceil(7 * decaySeconds * rateHz));
  let [before, last, peak] = [0, 0, 1e-9];
  for (let n = 0; n < ringing.length; n++) {
    const value =
      gaussian(random) * Math.exp(-n / rateHz / decaySeconds) +
      2 * radius * Math.cos(angle) * last -
      radius * radius * before;
    [before, last] = [last, value];
    ringing[n] = value;
    peak = Math.max(peak, Math.abs(value));
  }
  ringing.forEach((value, n) => {
    if (at + n < samples.length) samples[at + n] += (gain * value) / peak;
  });
}
