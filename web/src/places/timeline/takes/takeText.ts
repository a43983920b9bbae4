/** The take table in words. Pure. */
import type { BestOfPhrase, TableTake, TakeFigures, TakeWeights } from '@plundra/core/song';

const rounded = (value: number) => String(Math.round(value));

/**
 * "6 c  11 ms", of notes "11 ms  2 missed"; where there is room for fewer, the first of them: half a figure would be another.
 * @param fits whether a text has room
 */
export function figuresText({ cents, ms, missed }: TakeFigures, fits: (text: string) => boolean): string {
  const all = [
    cents !== undefined && `${rounded(cents)} c`,
    `${rounded(ms)} ms`,
    missed > 0 && `${missed} missed`,
  ].filter((each) => each !== false);
  const texts = all.map((_, i) => all.slice(0, all.length - i).join('  '));
  return texts.find(fits) ?? '';
}

/** "6 cents sharp, 11 ms late, 2 doubtful notes" */
export function figuresSentence(figures: TakeFigures): string {
  const { cents, sideCents = 0, ms, sideMs, doubtful, missed } = figures;
  const side = (value: number, up: string, down: string) => (value > 0 ? up : down);
  const pitch =
    cents !== undefined &&
    `${rounded(cents)} cents off${Math.abs(sideCents) >= 3 ? `, mostly ${side(sideCents, 'sharp', 'flat')}` : ''}`;
  return [
    pitch,
    `${rounded(ms)} ms off${Math.abs(sideMs) >= 5 ? `, mostly ${side(sideMs, 'late', 'early')}` : ''}`,
    doubtful > 0 && `${doubtful} doubtful ${doubtful === 1 ? 'note' : 'notes'}`,
    missed > 0 && `${missed} ${missed === 1 ? 'note' : 'notes'} missed that most takes have`,
  ]
    .filter(Boolean)
    .join('; ');
}

const share = (weight: number) => (weight === 0.5 ? '½' : String(weight));

/** "cents + ½ ms + 30 for each doubtful note", of notes that were played in "½ ms + 30 for each missed note" */
export function formulaText({ cents, ms, doubtful, missed }: TakeWeights, played: boolean): string {
  const terms = [
    !played && cents > 0 && `${cents === 1 ? '' : `${share(cents)} `}cents`,
    ms > 0 && `${ms === 1 ? '' : `${share(ms)} `}ms`,
    !played && doubtful > 0 && `${share(doubtful)} for each doubtful note`,
    played && missed > 0 && `${share(missed)} for each missed note`,
  ].filter(Boolean);
  return terms.length > 0 ? terms.join(' + ') : 'nothing';
}

/**
 * Why the best is best: "take 2 scores 13, take 3 20: closer in tune, but 9 ms further off". What weighs most comes first, and what does
 * not count is not said. Undefined where there is nothing to compare.
 */
export function reasonText({ ranking }: BestOfPhrase, weights: TakeWeights): string | undefined {
  const [best, second] = ranking;
  if (!best) return undefined;
  const name = ({ name: own }: TableTake) => own.replace(/^Take (?=\d+$)/, 'take ');
  if (!second) return `only ${name(best.take)} ${best.take.recorded ? 'is read here' : 'has notes here'}`;
  const scores = `${name(best.take)} scores ${rounded(best.score)}, ${name(second.take)} ${rounded(second.score)}`;
  const [a, b] = [best.figures, second.figures];
  const cents = (b.cents ?? 0) - (a.cents ?? 0);
  const faults = [
    {
      less: cents,
      least: 2,
      weight: weights.cents,
      good: 'closer in tune',
      bad: `${rounded(-cents)} cents further off`,
    },
    {
      less: b.ms - a.ms,
      least: 4,
      weight: weights.ms,
      good: 'closer in time',
      bad: `${rounded(a.ms - b.ms)} ms further off`,
    },
    {
      less: b.doubtful - a.doubtful,
      least: 1,
      weight: weights.doubtful,
      good: 'fewer doubtful notes',
      bad: 'more doubtful notes',
    },
    {
      less: b.missed - a.missed,
      least: 1,
      weight: weights.missed,
      good: 'fewer missed notes',
      bad: 'more missed notes',
    },
  ]
    .filter(({ less, least, weight }) => weight > 0 && Math.abs(less) >= least)
    .sort((x, y) => Math.abs(y.weight * y.less) - Math.abs(x.weight * x.less));
  const why = [
    faults.filter(({ less }) => less > 0).map(({ good }) => good),
    faults.filter(({ less }) => less < 0).map(({ bad }) => bad),
  ]
    .map((each) => each.join(' and '))
    .filter(Boolean)
    .join(', but ');
  return why ? `${scores}: ${why}` : scores;
}
