import type { Part } from './schema.ts';

/** The short mark of a part: initials of two words, or the first two letters. */
export function markOf(name: string): Part['mark'] {
  // An apostrophe parts no words.
  const words = name.replace(/['’]/g, '').match(/[\p{L}\p{N}]+/gu) ?? ['?'];
  const letters =
    words.length > 1 ? words.slice(0, 2).map((word) => [...word][0]) : [...words[0]].slice(0, 2);
  // A letter can become two ("ß"), and some take the room of two.
  let mark = '';
  for (const letter of letters.join('').toUpperCase()) if ((mark + letter).length <= 2) mark += letter;
  return mark || '?';
}
