/** The drums that a reading tells apart, and the General MIDI key (level 1, percussion) that stands for each. */
export const HIT_KINDS = [
  'kick',
  'snare',
  'closed-hat',
  'open-hat',
  'tom',
  'cymbal',
  'hand-open',
  'hand-slap',
  'shaker',
] as const;
export type HitKind = (typeof HIT_KINDS)[number];

export const KEY_OF_KIND: Record<HitKind, number> = {
  kick: 36,
  snare: 38,
  'closed-hat': 42,
  'open-hat': 46,
  tom: 45,
  cymbal: 49,
  'hand-open': 63,
  'hand-slap': 62,
  shaker: 70,
};

/** Names of the General MIDI level 1 percussion keys, most of them short enough for the edge of a row. */
const KEY_NAMES: Record<number, string> = {
  35: 'Kick 2',
  36: 'Kick',
  37: 'Rim',
  38: 'Snare',
  39: 'Clap',
  40: 'Snare 2',
  41: 'Low tom',
  42: 'Closed hi-hat',
  43: 'Tom 2',
  44: 'Pedal hi-hat',
  45: 'Tom',
  46: 'Open hi-hat',
  47: 'Tom 4',
  48: 'Tom 5',
  49: 'Crash',
  50: 'High tom',
  51: 'Ride',
  52: 'China',
  53: 'Ride bell',
  54: 'Tambour.',
  55: 'Splash',
  56: 'Cowbell',
  57: 'Crash 2',
  59: 'Ride 2',
  60: 'Bongo hi',
  61: 'Bongo lo',
  62: 'Slap',
  63: 'Hand',
  64: 'Hand low',
  65: 'Timb. hi',
  66: 'Timb. lo',
  69: 'Cabasa',
  70: 'Shaker',
  75: 'Claves',
  76: 'Block hi',
  77: 'Block lo',
  80: 'Tri. shut',
  81: 'Triangle',
};

/** Undefined for keys without a drum. */
export function percussionName(midi: number): string | undefined {
  return KEY_NAMES[Math.round(midi)];
}

/** Keys that have a drum, lowest first. */
export const PERCUSSION_KEYS = Object.keys(KEY_NAMES).map(Number);
