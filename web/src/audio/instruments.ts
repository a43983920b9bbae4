/** The sampled instruments that ship with the application, by General MIDI program. */
export interface Instrument {
  program: number;
  name: string;
  group: 'Keys' | 'Strings and plucked' | 'Voices and winds' | 'Synths';
}

export const INSTRUMENTS: readonly Instrument[] = [
  { program: 0, name: 'Piano', group: 'Keys' },
  { program: 4, name: 'Electric piano', group: 'Keys' },
  { program: 16, name: 'Organ', group: 'Keys' },
  { program: 24, name: 'Nylon guitar', group: 'Strings and plucked' },
  { program: 25, name: 'Steel guitar', group: 'Strings and plucked' },
  { program: 27, name: 'Clean guitar', group: 'Strings and plucked' },
  { program: 33, name: 'Finger bass', group: 'Strings and plucked' },
  { program: 46, name: 'Harp', group: 'Strings and plucked' },
  { program: 40, name: 'Violin', group: 'Strings and plucked' },
  { program: 48, name: 'String section', group: 'Strings and plucked' },
  { program: 52, name: 'Choir', group: 'Voices and winds' },
  { program: 73, name: 'Flute', group: 'Voices and winds' },
  { program: 56, name: 'Trumpet', group: 'Voices and winds' },
  { program: 81, name: 'Bright lead synth', group: 'Synths' },
  { program: 89, name: 'Soft synth', group: 'Synths' },
  { program: 98, name: 'Plucked synth', group: 'Synths' },
];

/** What plays notes: a General MIDI program, or the drum kit. */
export type Sound = number | 'drums';

export function instrumentName(program: Sound): string {
  if (program === 'drums') return 'Drum kit';
  return INSTRUMENTS.find((each) => each.program === program)?.name ?? `Program ${program + 1}`;
}

/** Options for a select, grouped. */
export const instrumentOptions = [...new Set(INSTRUMENTS.map((each) => each.group))].map((group) => ({
  label: group,
  options: INSTRUMENTS.filter((each) => each.group === group).map(({ program, name }) => ({
    value: program,
    label: name,
  })),
}));

/** The shipped program that stands in for one that is not shipped: the nearest of its family of eight. */
export function playableProgram(program: number): number {
  const shipped = INSTRUMENTS.map((each) => each.program);
  if (shipped.includes(program)) return program;
  const family = shipped.filter((each) => Math.floor(each / 8) === Math.floor(program / 8));
  return (family.length > 0 ? family : shipped).reduce((a, b) =>
    Math.abs(b - program) < Math.abs(a - program) ? b : a,
  );
}
