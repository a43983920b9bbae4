import { describe, expect, it } from 'vitest';
import type { BestOfPhrase, RecordingPart, Take, TakeFigures } from '@plundra/core/song';
import { figuresSentence, figuresText, formulaText, nameOfTake, reasonText } from './takeText.ts';

const take = (id: string, name?: string): Take => ({
  id,
  recordingHash: '',
  line: null,
  ...(name && { name }),
});
const part = { takes: [take('a'), take('b', 'Quiet one'), take('c')] } as RecordingPart;
const figures = (more: Partial<TakeFigures> = {}): TakeFigures => ({
  cents: 6.4,
  sideCents: 1,
  ms: 11.2,
  sideMs: -2,
  doubtful: 0,
  notes: 5,
  ...more,
});

describe('the take table in words', () => {
  it('names takes by their place where they have no name', () => {
    expect(part.takes.map((each) => nameOfTake(part, each))).toEqual(['Take 1', 'Quiet one', 'Take 3']);
  });

  it('says how far off a phrase is, and on which side', () => {
    expect(figuresText(figures())).toBe('6 c  11 ms');
    expect(figuresSentence(figures())).toBe('6 cents off; 11 ms off');
    expect(figuresSentence(figures({ sideCents: -5, sideMs: 9, doubtful: 1 }))).toBe(
      '6 cents off, mostly flat; 11 ms off, mostly late; 1 doubtful note',
    );
    expect(figuresSentence(figures({ sideCents: 4, sideMs: -9, doubtful: 2 }))).toBe(
      '6 cents off, mostly sharp; 11 ms off, mostly early; 2 doubtful notes',
    );
  });

  it('says its formula', () => {
    expect(formulaText({ cents: 1, ms: 0.5, doubtful: 30 })).toBe('cents + ½ ms + 30 for each doubtful note');
    expect(formulaText({ cents: 2, ms: 0, doubtful: 0 })).toBe('2 cents');
    expect(formulaText({ cents: 0, ms: 0, doubtful: 0 })).toBe('nothing');
  });

  it('says why the best is best', () => {
    const ranked = (...all: [string, TakeFigures, number][]) =>
      reasonText(part, {
        ranking: all.map(([id, each, score]) => ({
          take: part.takes.find((one) => one.id === id)!,
          figures: each,
          score,
        })),
      } as unknown as BestOfPhrase);
    expect(ranked(['b', figures({ ms: 4 }), 8], ['c', figures({ cents: 3, ms: 35 }), 20])).toBe(
      'quiet one scores 8, take 3 20: closer in time, but 3 cents further off',
    );
    expect(ranked(['a', figures(), 12], ['c', figures({ doubtful: 2 }), 72])).toBe(
      'take 1 scores 12, take 3 72: fewer doubtful notes',
    );
    expect(ranked(['a', figures(), 12])).toBe('only take 1 is read here');
    expect(ranked()).toBeUndefined();
  });
});
