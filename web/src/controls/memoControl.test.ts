import { createElement } from 'react';
import { describe, expect, it } from 'vitest';
import { sameLook } from './memoControl.tsx';

const mark = (name: string, colour: string) => createElement('span', { style: { background: colour } }, name);

describe('whether two props look the same', () => {
  it.each([
    ['numbers and words', 3, 3],
    ['styles', { width: 96, textAlign: 'right' }, { width: 96, textAlign: 'right' }],
    ['options', [{ value: 'a', label: 'A' }], [{ value: 'a', label: 'A' }]],
    ['elements with what they hold', mark('LV', '#123'), mark('LV', '#123')],
    ['nothing', undefined, undefined],
  ])('yes: %s', (_, a, b) => expect(sameLook(a, b)).toBe(true));

  it.each([
    ['another number', 3, 4],
    ['one option more', [{ value: 'a' }], [{ value: 'a' }, { value: 'b' }]],
    ['another label', [{ value: 'a', label: 'A' }], [{ value: 'a', label: 'B' }]],
    ['a style that is gone', { width: 96 }, {}],
    ['another colour in an element', mark('LV', '#123'), mark('LV', '#124')],
    ['another element', mark('LV', '#123'), createElement('b', null, 'LV')],
    ['something else of the same text', 'null', null],
    ['a list and an object', [], {}],
    // Two sets may be equal; they are not compared.
    ['objects of a class', new Set([1]), new Set([1])],
  ])('no: %s', (_, a, b) => expect(sameLook(a, b)).toBe(false));
});
