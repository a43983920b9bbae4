import { describe, expect, it } from 'vitest';
import {
  FIRST_TAKE_WEIGHTS,
  type BestOfPhrase,
  type TableTake,
  type TakeFigures,
  type TakeWeights,
} from '@plundra/core/song';
import { figuresSentence, figuresText, formulaText, reasonText } from './takeText.ts';

const sung = (id: string, name: string): TableTake => ({
  id,
  name,
  recorded: { id, recordingHash: '', line: null },
});
const takes = [
  sung('a', 'Take 1'),
  sung('b', 'Quiet one'),
  sung('c', 'Take 3'),
  { id: 'Fast', name: 'Fast' },
];
const figures = (more: Partial<TakeFigures> = {}): TakeFigures => ({
  cents: 6.4,
  sideCents: 1,
  ms: 11.2,
  sideMs: -2,
  doubtful: 0,
  missed: 0,
  notes: 5,
  ...more,
});

const all = () => true;

describe('the take table in words', () => {
  it('says how far off a phrase is, and on which side', () => {
    expect(figuresText(figures(), all)).toBe('6 c  11 ms');
    // What has no room is left out whole.
    expect(figuresText(figures(), (text) => text.length < 9)).toBe('6 c');
    expect(figuresText(figures(), () => false)).toBe('');
    expect(figuresSentence(figures())).toBe('6 cents off; 11 ms off');
    expect(figuresSentence(figures({ sideCents: -5, sideMs: 9, doubtful: 1 }))).toBe(
      '6 cents off, mostly flat; 11 ms off, mostly late; 1 doubtful note',
    );
    expect(figuresSentence(figures({ sideCents: 4, sideMs: -9, doubtful: 2 }))).toBe(
      '6 cents off, mostly sharp; 11 ms off, mostly early; 2 doubtful notes',
    );
  });

  it('says of notes that were played in what is missing, and nothing of their pitch', () => {
    const { cents: _, sideCents: __, ...played } = figures({ missed: 2 });
    expect(figuresText(played, all)).toBe('11 ms  2 missed');
    expect(figuresSentence({ ...played, missed: 1 })).toBe('11 ms off; 1 note missed that most takes have');
  });

  it('says its formula', () => {
    const weights = { cents: 1, ms: 0.5, doubtful: 30, missed: 20 };
    expect(formulaText(weights, false)).toBe('cents + ½ ms + 30 for each doubtful note');
    expect(formulaText(weights, true)).toBe('½ ms + 20 for each missed note');
    expect(formulaText({ cents: 2, ms: 0, doubtful: 0, missed: 0 }, false)).toBe('2 cents');
    expect(formulaText({ cents: 2, ms: 0, doubtful: 0, missed: 0 }, true)).toBe('nothing');
  });

  it('says why the best is best', () => {
    type Ranked = [string, TakeFigures, number];
    const weighed = (weights: TakeWeights, all: Ranked[]) =>
      reasonText(
        {
          ranking: all.map(([id, each, score]) => ({
            take: takes.find((one) => one.id === id)!,
            figures: each,
            score,
          })),
        } as unknown as BestOfPhrase,
        weights,
      );
    const ranked = (...all: Ranked[]) => weighed(FIRST_TAKE_WEIGHTS, all);
    expect(ranked(['b', figures({ ms: 4 }), 8], ['c', figures({ cents: 3, ms: 35 }), 20])).toBe(
      'Quiet one scores 8, take 3 20: closer in time, but 3 cents further off',
    );
    expect(ranked(['a', figures(), 12], ['c', figures({ doubtful: 2 }), 72])).toBe(
      'take 1 scores 12, take 3 72: fewer doubtful notes',
    );
    expect(ranked(['Fast', figures({ missed: 1 }), 36], ['c', figures({ missed: 3, ms: 2 }), 91])).toBe(
      'Fast scores 36, take 3 91: fewer missed notes, but 9 ms further off',
    );
    // What decides is said first, and what does not count not at all.
    const both: Ranked[] = [
      ['a', figures({ cents: 4 }), 10],
      ['c', figures({ ms: 31 }), 22],
    ];
    expect(ranked(...both)).toBe('take 1 scores 10, take 3 22: closer in time and closer in tune');
    expect(weighed({ ...FIRST_TAKE_WEIGHTS, cents: 0 }, both)).toBe(
      'take 1 scores 10, take 3 22: closer in time',
    );
    expect(ranked(['a', figures(), 12])).toBe('only take 1 is read here');
    expect(ranked(['Fast', figures(), 12])).toBe('only Fast has notes here');
    expect(ranked()).toBeUndefined();
  });
});
