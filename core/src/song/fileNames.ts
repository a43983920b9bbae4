/** What the name of a file says of what is in it. */
import type { Material } from './schema.ts';

/** "lead_voice take 2.wav" → "Lead voice take 2". */
export function nameOfFile(fileName: string): string {
  const plain =
    fileName
      .replace(/\.[^.]+$/, '')
      .replace(/[_]+/g, ' ')
      .trim() || 'Recording';
  return (plain[0].toUpperCase() + plain.slice(1)).slice(0, 120);
}

/** What a file's name says about the material; other where it says nothing. */
export function guessMaterial(name: string): Material {
  const rules: [RegExp, Material][] = [
    [/bass/i, 'bass'],
    [/gui?tar|gtr/i, 'guitar'],
    [/piano|keys|keyboard|organ|synth/i, 'keys'],
    [/drum|kick|snare|cajon|perc/i, 'drums'],
    [/vo[ck]|voice|sing|choir|alto|tenor|soprano/i, 'voice'],
  ];
  return rules.find(([pattern]) => pattern.test(name))?.[1] ?? 'other';
}
