/**
 * Rhythms of a bar for drums and strums (common practice, from memory). Each is written in steps of equal length: "X" loud,
 * "x" usual, "." none; `steps` of them make a beat.
 */
export interface DrumPattern {
  name: string;
  metre: Metre;
  /** Steps of a beat: 2 eighths, 3 triplets, 4 sixteenths. */
  steps: 2 | 3 | 4;
  bpm: readonly [number, number];
  /** One line for each drum, of General MIDI keys; several bars may follow each other. */
  lines: readonly (readonly [key: number, line: string])[];
  /** Eighths (of two steps) or sixteenths (of four) may be swung. */
  swings?: true;
}

/** Beats of a bar; in compound metres a beat is a dotted quarter. */
export interface Metre {
  beats: number;
  compound: boolean;
}

const KICK = 36;
const SNARE = 38;
const STICK = 37;
const HAT = 42;
const OPEN = 46;
const RIDE = 51;
const TOM = 45;
const CRASH = 49;
const SHAKER = 70;
const CONGA = 64;
const SLAP = 63;
const TAMBOURINE = 54;

/** For other patterns. */
export const KEYS = { KICK, SNARE, STICK, HAT, OPEN, RIDE, TOM, SHAKER, CONGA, SLAP, TAMBOURINE } as const;

const FOUR: Metre = { beats: 4, compound: false };
const THREE: Metre = { beats: 3, compound: false };
const FIVE: Metre = { beats: 5, compound: false };
const SEVEN: Metre = { beats: 7, compound: false };
const TWO: Metre = { beats: 2, compound: false };
const SIX_EIGHT: Metre = { beats: 2, compound: true };
const NINE_EIGHT: Metre = { beats: 3, compound: true };
const TWELVE_EIGHT: Metre = { beats: 4, compound: true };
export const METRES = { TWO, THREE, FOUR, FIVE, SEVEN, SIX_EIGHT, NINE_EIGHT, TWELVE_EIGHT } as const;

export const CHOOSING_PATTERNS: readonly DrumPattern[] = [
  {
    name: 'rock',
    metre: FOUR,
    steps: 2,
    bpm: [78, 150],
    swings: true,
    lines: [
      [KICK, 'X...X...'],
      [SNARE, '..X...X.'],
      [HAT, 'XxXxXxXx'],
    ],
  },
  {
    name: 'rock pushed',
    metre: FOUR,
    steps: 2,
    bpm: [80, 150],
    swings: true,
    lines: [
      [KICK, 'X..xX...'],
      [SNARE, '..X...X.'],
      [HAT, 'XxXxXxXx'],
    ],
  },
  {
    name: 'rock busy kick',
    metre: FOUR,
    steps: 4,
    bpm: [70, 112],
    swings: true,
    lines: [
      [KICK, 'X..x..x.X.x.....'],
      [SNARE, '....X.......X..x'],
      [HAT, 'X.x.X.x.X.x.X.x.'],
    ],
  },
  {
    name: 'sixteenths',
    metre: FOUR,
    steps: 4,
    bpm: [64, 110],
    swings: true,
    lines: [
      [KICK, 'X.....x.X.x.....'],
      [SNARE, '....X.......X...'],
      [HAT, 'XxxxXxxxXxxxXxxx'],
    ],
  },
  {
    name: 'half time',
    metre: FOUR,
    steps: 2,
    bpm: [110, 168],
    swings: true,
    lines: [
      [KICK, 'X..x..x.'],
      [SNARE, '....X...'],
      [HAT, 'XxXxXxXx'],
    ],
  },
  {
    name: 'four on the floor',
    metre: FOUR,
    steps: 2,
    bpm: [108, 136],
    lines: [
      [KICK, 'X.X.X.X.'],
      [SNARE, '..X...X.'],
      [OPEN, '.X.X.X.X'],
    ],
  },
  {
    name: 'house without snare',
    metre: FOUR,
    steps: 4,
    bpm: [112, 130],
    lines: [
      [KICK, 'X...X...X...X...'],
      [OPEN, '..X...X...X...X.'],
      [HAT, 'x..xx..xx..xx..x'],
    ],
  },
  {
    name: 'break',
    metre: FOUR,
    steps: 4,
    bpm: [84, 128],
    swings: true,
    lines: [
      [KICK, 'X.X.......XX....'],
      [SNARE, '....X..x.x..X..x'],
      [HAT, 'X.x.X.x.X.x.X.x.'],
    ],
  },
  {
    name: 'shuffle',
    metre: FOUR,
    steps: 3,
    bpm: [84, 150],
    lines: [
      [KICK, 'X.....X.....'],
      [SNARE, '...X.....X..'],
      [HAT, 'X.xX.xX.xX.x'],
    ],
  },
  {
    name: 'swing',
    metre: FOUR,
    steps: 3,
    bpm: [108, 200],
    lines: [
      [RIDE, 'X..X.xX..X.x'],
      [HAT, '...X.....X..'],
      [KICK, 'x...........'],
    ],
  },
  {
    name: 'bossa',
    metre: FOUR,
    steps: 4,
    bpm: [60, 84],
    lines: [
      [KICK, 'X..xX..xX..xX..x'],
      [STICK, 'X..X..X...X..X..'],
      [HAT, 'xxxxxxxxxxxxxxxx'],
    ],
  },
  {
    name: 'two step',
    metre: TWO,
    steps: 4,
    bpm: [84, 126],
    lines: [
      [KICK, 'X.......'],
      [SNARE, 'xxxxXxxx'],
    ],
  },
  {
    name: 'polka',
    metre: TWO,
    steps: 2,
    bpm: [96, 138],
    lines: [
      [KICK, 'X.X.'],
      [SNARE, '.X.X'],
      [HAT, 'x.x.'],
    ],
  },
  {
    name: 'waltz',
    metre: THREE,
    steps: 2,
    bpm: [84, 186],
    lines: [
      [KICK, 'X.....'],
      [SNARE, '..x.x.'],
      [HAT, 'X.x.x.'],
    ],
  },
  {
    name: 'slow three',
    metre: THREE,
    steps: 4,
    bpm: [60, 100],
    swings: true,
    lines: [
      [KICK, 'X.....x.....'],
      [SNARE, '........X...'],
      [HAT, 'X.x.x.x.x.x.'],
    ],
  },
  {
    name: 'three with a backbeat',
    metre: THREE,
    steps: 2,
    bpm: [84, 150],
    swings: true,
    lines: [
      [KICK, 'X...x.'],
      [SNARE, '..X...'],
      [HAT, 'XxXxXx'],
    ],
  },
  {
    name: 'ballad in six',
    metre: SIX_EIGHT,
    steps: 3,
    bpm: [46, 84],
    lines: [
      [KICK, 'X.....'],
      [SNARE, '...X..'],
      [HAT, 'XxxXxx'],
    ],
  },
  {
    name: 'six with a push',
    metre: SIX_EIGHT,
    steps: 3,
    bpm: [46, 84],
    lines: [
      [KICK, 'X.x..x'],
      [SNARE, '...X..'],
      [HAT, 'XxxXxx'],
    ],
  },
  {
    name: 'slow blues',
    metre: TWELVE_EIGHT,
    steps: 3,
    bpm: [48, 84],
    lines: [
      [KICK, 'X.....X.x...'],
      [SNARE, '...X.....X..'],
      [HAT, 'XxxXxxXxxXxx'],
    ],
  },
  {
    name: 'five',
    metre: FIVE,
    steps: 2,
    bpm: [96, 176],
    swings: true,
    lines: [
      [KICK, 'X..x..X...'],
      [SNARE, '....x...X.'],
      [RIDE, 'X.XxX.X.X.'],
    ],
  },
  {
    name: 'five rock',
    metre: FIVE,
    steps: 2,
    bpm: [90, 150],
    lines: [
      [KICK, 'X...X.X...'],
      [SNARE, '..X.....X.'],
      [HAT, 'XxXxXxXxXx'],
    ],
  },
  {
    name: 'toms',
    metre: FOUR,
    steps: 2,
    bpm: [84, 140],
    lines: [
      [KICK, 'X...X...'],
      [TOM, 'XxxXxxXx'],
      [SNARE, '......X.'],
    ],
  },
  {
    name: 'shaker',
    metre: FOUR,
    steps: 4,
    bpm: [66, 116],
    swings: true,
    lines: [
      [SHAKER, 'XxxxXxxxXxxxXxxx'],
      [KICK, 'X.......x.......'],
    ],
  },
  {
    name: 'congas',
    metre: FOUR,
    steps: 2,
    bpm: [84, 132],
    lines: [
      [SLAP, '..X...X.'],
      [CONGA, '.x.x..xX'],
      [SHAKER, 'XxXxXxXx'],
    ],
  },
  {
    name: 'tambourine',
    metre: FOUR,
    steps: 2,
    bpm: [80, 144],
    lines: [
      [TAMBOURINE, 'xxXxxxXx'],
      [KICK, 'X...X...'],
    ],
  },
  {
    name: 'hat only',
    metre: FOUR,
    steps: 2,
    bpm: [76, 150],
    swings: true,
    lines: [
      [HAT, 'XxXxXxXx'],
      [OPEN, '.......x'],
      [KICK, 'X.......'],
    ],
  },
];

/** Never trained on, and not looked at while anything was chosen. */
export const LEFT_OUT_PATTERNS: readonly DrumPattern[] = [
  {
    name: 'four snares',
    metre: FOUR,
    steps: 2,
    bpm: [100, 160],
    lines: [
      [KICK, 'X.xxX.xx'],
      [SNARE, 'X.X.X.X.'],
      [HAT, 'X.X.X.X.'],
    ],
  },
  {
    name: 'one drop',
    metre: FOUR,
    steps: 2,
    bpm: [120, 160],
    lines: [
      [KICK, '....X...'],
      [STICK, '....X...'],
      [HAT, 'XxXxXxXx'],
    ],
  },
  {
    name: 'train',
    metre: FOUR,
    steps: 4,
    bpm: [84, 120],
    lines: [
      [KICK, 'X...X...X...X...'],
      [SNARE, 'xxXxxxXxxxXxxxXx'],
    ],
  },
  {
    name: 'march',
    metre: FOUR,
    steps: 4,
    bpm: [100, 124],
    lines: [
      [KICK, 'X.......X.......'],
      [SNARE, 'X...xxx.X...x.xx'],
      [CRASH, 'X...............'],
    ],
  },
  {
    name: 'funk',
    metre: FOUR,
    steps: 4,
    bpm: [88, 112],
    lines: [
      [KICK, 'X.X...X..X..X...'],
      [SNARE, '....X..x.x..X..x'],
      [HAT, 'XxxxXxxxXxXxXxxx'],
    ],
  },
  {
    name: 'jazz waltz',
    metre: THREE,
    steps: 3,
    bpm: [110, 180],
    lines: [
      [RIDE, 'X..X.xX..'],
      [HAT, '...X.....'],
      [KICK, 'X........'],
    ],
  },
  {
    name: 'country waltz',
    metre: THREE,
    steps: 2,
    bpm: [90, 140],
    lines: [
      [KICK, 'X.....'],
      [STICK, '..X.X.'],
    ],
  },
  {
    name: 'jig',
    metre: SIX_EIGHT,
    steps: 3,
    bpm: [96, 126],
    lines: [
      [TAMBOURINE, 'XxxXxx'],
      [KICK, 'X..x..'],
    ],
  },
  {
    name: 'gospel',
    metre: TWELVE_EIGHT,
    steps: 3,
    bpm: [54, 80],
    lines: [
      [KICK, 'X....xX.....'],
      [SNARE, '...X.....X..'],
      [RIDE, 'X.xX.xX.xX.x'],
    ],
  },
  {
    name: 'five swung',
    metre: FIVE,
    steps: 3,
    bpm: [130, 180],
    lines: [
      [RIDE, 'X..X.xX..X..X..'],
      [KICK, 'X..............'],
      [SNARE, '.....x...X.....'],
    ],
  },
];
