import { describe, expect, it } from 'vitest';
import { findActions, isMeant, type Action } from './actions.ts';

const action = (label: string, words?: string): Action => ({
  label,
  ...(words !== undefined && { words }),
  run: () => undefined,
});
const join = action('Join the selected passages', 'glue consolidate merge');
const pull = action('Pull to the grid', 'quantize align');
const glueNotes = action('Glue');
const all = [join, pull, glueNotes];

describe('finding an action', () => {
  it('goes by the beginnings of words, in our words and in those of the trade', () => {
    expect(findActions(all, 'join')).toEqual([join]);
    expect(findActions(all, 'QUANT')).toEqual([pull]);
    expect(findActions(all, 'pass glue')).toEqual([join]);
    expect(findActions(all, 'rid')).toEqual([]);
    expect(findActions(all, '  ')).toEqual(all);
  });

  it('puts those first that are called so', () => {
    expect(findActions(all, 'glue')).toEqual([glueNotes, join]);
  });

  it('needs every word', () => {
    expect(isMeant(join, 'glue quantize')).toBe(false);
  });
});
