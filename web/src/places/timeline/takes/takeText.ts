/** The take table in words. Pure. */
import {
  takeNames,
  type BestOfPhrase,
  type RecordingPart,
  type Take,
  type TakeFigures,
  type TakeWeights,
} from '@plundra/core/song';

/** As it was named, or by its place among the takes of the part. */
export function nameOfTake(part: RecordingPart, take: Take): string {
  return take.name ?? takeNames({ takes: part.takes.slice(0, part.takes.indexOf(take)) }, 1)[0];
}

const rounded = (value: number) => String(Math.round(value));

/** "6 c  11 ms" */
export const figuresText = ({ cents, ms }: TakeFigures): string => `${rounded(cents)} c  ${rounded(ms)} ms`;

/** "6 cents sharp, 11 ms late, 2 doubtful notes" */
export function figuresSentence({ cents, sideCents, ms, sideMs, doubtful }: TakeFigures): string {
  const side = (value: number, up: string, down: string) => (value > 0 ? up : down);
  return [
    `${rounded(cents)} cents off${Math.abs(sideCents) >= 3 ? `, mostly ${side(sideCents, 'sharp', 'flat')}` : ''}`,
    `${rounded(ms)} ms off${Math.abs(sideMs) >= 5 ? `, mostly ${side(sideMs, 'late', 'early')}` : ''}`,
    ...(doubtful > 0 ? [`${doubtful} doubtful ${doubtful === 1 ? 'note' : 'notes'}`] : []),
  ].join('; ');
}

const share = (weight: number) => (weight === 0.5 ? '½' : String(weight));

/** "cents + ½ ms + 30 for each doubtful note" */
export function formulaText({ cents, ms, doubtful }: TakeWeights): string {
  const terms = [
    cents > 0 && `${cents === 1 ? '' : `${share(cents)} `}cents`,
    ms > 0 && `${ms === 1 ? '' : `${share(ms)} `}ms`,
    doubtful > 0 && `${share(doubtful)} for each doubtful note`,
  ].filter(Boolean);
  return terms.length > 0 ? terms.join(' + ') : 'nothing';
}

/** Why the best is best: "take 2 scores 13, take 3 20: closer in tune, but later." Undefined where there is nothing to compare. */
export function reasonText(part: RecordingPart, { ranking }: BestOfPhrase): string | undefined {
  const [best, second] = ranking;
  if (!best) return undefined;
  const name = (take: Take) => nameOfTake(part, take).toLowerCase();
  if (!second) return `only ${name(best.take)} is read here`;
  const scores = `${name(best.take)} scores ${rounded(best.score)}, ${name(second.take)} ${rounded(second.score)}`;
  const [a, b] = [best.figures, second.figures];
  const better: string[] = [];
  const worse: string[] = [];
  const compare = (mine: number, other: number, least: number, good: string, bad: string) => {
    if (Math.abs(mine - other) < least) return;
    if (mine < other) better.push(good);
    else worse.push(bad);
  };
  compare(a.cents, b.cents, 2, 'closer in tune', `${rounded(a.cents - b.cents)} cents further off`);
  compare(a.ms, b.ms, 4, 'closer in time', `${rounded(a.ms - b.ms)} ms further off`);
  compare(a.doubtful, b.doubtful, 1, 'fewer doubtful notes', 'more doubtful notes');
  const why = [better.join(' and '), worse.join(' and ')].filter(Boolean).join(', but ');
  return why ? `${scores}: ${why}` : scores;
}
