/**
 * How often the chords of a recording change at each kind of place: some songs hold a chord for bars, others change it
 * with every beat. Learned from the recording itself by expectation and maximisation over all paths (Baum et al. 1970),
 * from what is usual on.
 */
import { STATES } from './chordModel.ts';

/** A bar line, the middle of a bar, another beat, between beats; unknown: bars are not found yet. */
export type Place = 'bar' | 'middle' | 'beat' | 'within' | 'unknown';

/** How likely a chord changes there where nothing is known of the recording (common practice, roughly). */
const USUAL: Record<Place, number> = { bar: 0.5, middle: 0.25, beat: 0.15, within: 0.02, unknown: 0.18 };
/** Weight of the prior, in places of the recording. */
const USUAL_PLACES = 4;
const ROUNDS = 3;
const MOST = 0.95;

/**
 * @param evidence log probabilities of all chords in each span
 * @param prior log chances of the chord that a change leads to, of each span
 * @param places what the start of each span is
 * @returns for each span how likely the chord changes at its start, 0–1; nothing is said of the first
 */
export function changeRates(
  evidence: readonly Float64Array[],
  prior: (span: number) => Float64Array,
  places: readonly Place[],
): Float64Array {
  const likelihoods = evidence.map(relative);
  const known = new Map<Float64Array, Float64Array>();
  const chances = evidence.map((_, span) => {
    const log = prior(span);
    const found = known.get(log) ?? shares(relative(log));
    known.set(log, found);
    return found;
  });
  let rates: Record<Place, number> = USUAL;
  for (let round = 0; round < ROUNDS; round++) {
    const changed = expectedChanges(
      likelihoods,
      chances,
      places.map((place) => rates[place]),
    );
    rates = { ...USUAL };
    for (const place of Object.keys(USUAL) as Place[]) {
      let [sum, count] = [0, 0];
      for (let span = 1; span < places.length; span++) {
        if (places[span] !== place) continue;
        sum += changed[span];
        count++;
      }
      rates[place] = Math.min(MOST, (sum + USUAL_PLACES * USUAL[place]) / (count + USUAL_PLACES));
    }
  }
  return Float64Array.from(places, (place) => rates[place]);
}

/**
 * How likely the chord changes at the start of each span, by all that is heard before and after it. Plain loops: a long song
 * has some hundred thousand numbers, and somebody may be waiting.
 */
function expectedChanges(
  likelihoods: readonly Float64Array[],
  chances: readonly Float64Array[],
  rates: readonly number[],
): Float64Array {
  const count = likelihoods.length;
  const forward = likelihoods.map(() => new Float64Array(STATES));
  for (let state = 0; state < STATES; state++) forward[0][state] = likelihoods[0][state] * chances[0][state];
  shares(forward[0]);
  for (let i = 1; i < count; i++) {
    const [before, now, heard, chance] = [forward[i - 1], forward[i], likelihoods[i], chances[i]];
    const [change, stay] = [rates[i], 1 - rates[i]];
    for (let state = 0; state < STATES; state++)
      now[state] = (stay * before[state] + change * chance[state]) * heard[state];
    shares(now);
  }
  const changed = new Float64Array(count);
  const backward = new Float64Array(STATES).fill(1);
  for (let i = count - 1; i > 0; i--) {
    const [before, heard, chance] = [forward[i - 1], likelihoods[i], chances[i]];
    let [change, stay] = [0, 0];
    for (let state = 0; state < STATES; state++) {
      const later = backward[state] * heard[state];
      backward[state] = later;
      change += chance[state] * later;
      stay += before[state] * later;
    }
    const own = rates[i] * change;
    changed[i] = own / (own + (1 - rates[i]) * stay + Number.MIN_VALUE);
    for (let state = 0; state < STATES; state++) backward[state] = (1 - rates[i]) * backward[state] + own;
    shares(backward);
  }
  return changed;
}

/** Of logarithms: the likelihoods, the largest of which is 1. */
function relative(logs: Float64Array): Float64Array {
  let most = -Infinity;
  for (const log of logs) most = Math.max(most, log);
  return logs.map((log) => Math.exp(log - most));
}

/** With sum 1. */
function shares(values: Float64Array): Float64Array {
  let sum = 0;
  for (let i = 0; i < values.length; i++) sum += values[i];
  const scale = 1 / (sum || 1);
  for (let i = 0; i < values.length; i++) values[i] *= scale;
  return values;
}
