/** What the shelf comes with, as patterns and chords: hand drums and shakers, bass, keyboard and guitar figures, a few notes. */
import type { ShelfKind } from '@plundra/core/shelf';
import type { Material } from '@plundra/core/song';

export interface Stroke {
  beat: number;
  beats: number;
  midi: number;
  velocity: number;
}

export interface ShelfPiece {
  name: string;
  kind: ShelfKind;
  material: Material;
  tags: string[];
  /** General MIDI program; of drums that of the kit. */
  program: number;
  drums?: boolean;
  /** As "G major"; absent for drums. */
  key?: string;
  /** Quarter notes a minute; absent: it keeps no tempo, and its beats are seconds. */
  bpm?: number;
  metre: '4/4' | '3/4' | '6/8';
  bars: number;
  /** Of all bars. */
  notes: Stroke[];
}

const BAR_BEATS = { '4/4': 4, '3/4': 3, '6/8': 3 };

/**
 * Strokes of a kit: for each key one text that goes round, "X" loud, "x" soft.
 * @param stepsPerBeat steps in a quarter note
 */
function beat(
  name: string,
  bpm: number,
  metre: ShelfPiece['metre'],
  bars: number,
  stepsPerBeat: number,
  tags: string[],
  lines: Record<number, string>,
  { program = 0, swing = 0.5 } = {},
): ShelfPiece {
  const steps = bars * BAR_BEATS[metre] * stepsPerBeat;
  const notes = Object.entries(lines).flatMap(([midi, text]) =>
    Array.from({ length: steps }, (_, step) => step).flatMap((step): Stroke[] => {
      const sign = text[step % text.length];
      if (sign === '.') return [];
      const late = step % 2 === 1 ? (2 * swing - 1) / stepsPerBeat : 0;
      const velocity = sign === 'X' ? 104 : 66;
      return [{ beat: step / stepsPerBeat + late, beats: 0.2, midi: Number(midi), velocity }];
    }),
  );
  return { name, kind: 'loop', material: 'drums', tags, program, drums: true, bpm, metre, bars, notes };
}

type Figure = Omit<ShelfPiece, 'notes' | 'bars'> & {
  /** For each bar: [beat, beats, one or more pitches]. */
  figure: (readonly [number, number, ...number[]])[][];
};

function figure({ figure: bars, ...piece }: Figure): ShelfPiece {
  const barBeats = BAR_BEATS[piece.metre];
  const notes = bars.flatMap((bar, i) =>
    bar.flatMap(([at, beats, ...pitches]) =>
      pitches.map((midi, k): Stroke => {
        // Fingers do not fall all at once, and the first of a bar is the loudest.
        const spread = piece.material === 'guitar' ? 0.02 * k : 0.004 * k;
        return { beat: i * barBeats + at + spread, beats, midi, velocity: at === 0 ? 92 : 80 };
      }),
    ),
  );
  return { ...piece, bars: bars.length, notes };
}

/** Up and down through the notes of a chord, each lasting `step` beats. */
const broken = (barBeats: number, step: number, tones: readonly number[]) =>
  Array.from(
    { length: Math.round(barBeats / step) },
    (_, i) => [i * step, step * 1.6, tones[i % tones.length]] as const,
  );
/** A chord struck at each of these beats. */
const struck = (places: readonly (readonly [number, number])[], tones: readonly number[]) =>
  places.map(([at, beats]) => [at, beats, ...tones] as const);

const LOOP = { kind: 'loop' } as const;
const BASS = { ...LOOP, material: 'bass', program: 33 } as const;
const KEYS = { ...LOOP, material: 'keys', program: 4 } as const;
const GUITAR = { ...LOOP, material: 'guitar', program: 25 } as const;
const PHRASE = { kind: 'phrase', material: 'keys' } as const;
const STRUM = [
  [0, 1.4],
  [1.5, 0.4],
  [2, 0.9],
  [3, 0.4],
  [3.5, 0.4],
] as const;
const WALTZ_STRUM = [
  [0, 0.9],
  [1, 0.8],
  [2, 0.8],
] as const;

export const SHELF: ShelfPiece[] = [
  beat('Harbour hands', 100, '4/4', 2, 4, ['hand drum', 'dry'], {
    64: 'X...x...X...x...X...x...X..x....',
    63: '..x...x...x..xx...x...x...x...xx',
    62: '....X.......X.......X.......X...',
  }),
  beat('Deck stomp', 88, '4/4', 2, 4, ['foot', 'clap'], {
    36: 'X.......X.......X.......X.x.....',
    39: '....X.......X.......X.......X...',
  }),
  beat('Rope and cleat', 96, '4/4', 1, 4, ['shaker'], { 70: 'XxxxXxxxXxxxXxxx', 75: '....x.......x...' }),
  beat(
    'Brushed canvas',
    124,
    '4/4',
    2,
    4,
    ['brushes'],
    { 38: 'x.x.X.x.x.x.X.xx', 42: 'x...x...x...x...', 36: 'X.......X.......' },
    { program: 40 },
  ),
  beat(
    'Lantern shuffle',
    112,
    '4/4',
    2,
    2,
    ['kit', 'swing'],
    { 42: 'XxXxXxXx', 36: 'X...X..x', 38: '..X...X.' },
    { swing: 0.64 },
  ),
  beat('Jetty waltz', 132, '3/4', 2, 2, ['kit', 'waltz'], { 36: 'X.....', 38: '..x.x.', 42: 'x.x.x.' }),
  beat('Tide in six', 99, '6/8', 2, 2, ['hand drum', 'six eight'], {
    64: 'X..x..X..x.x',
    63: '..x..x..x..x',
    70: 'XxxXxxXxxXxx',
  }),
  beat('Low engine', 76, '4/4', 2, 4, ['toms', 'slow'], {
    36: 'X.....x.X.......X.....x.X...x...',
    41: '....x.......x.......x.......x.x.',
    45: '..............x...............xx',
  }),
  beat('Tin cups', 108, '4/4', 1, 4, ['tambourine', 'triangle'], {
    54: 'x.x.X.x.x.x.X.xx',
    81: 'X.......x.......',
  }),
  beat('Quick oars', 140, '4/4', 2, 4, ['bongos'], {
    60: 'X..x..X.x..X..x.',
    61: '..x..x...x...xX.',
    56: 'x...x...x...x...',
  }),
  figure({
    ...BASS,
    name: 'Low tide walk',
    tags: ['round', 'finger-played'],
    key: 'F major',
    bpm: 100,
    metre: '4/4',
    figure: [
      [
        [0, 1, 41],
        [1, 1, 45],
        [2, 1, 48],
        [3, 1, 50],
      ],
      [
        [0, 1, 46],
        [1, 1, 50],
        [2, 1, 53],
        [3, 1, 50],
      ],
      [
        [0, 1, 48],
        [1, 1, 52],
        [2, 1, 55],
        [3, 1, 52],
      ],
      [
        [0, 1.5, 41],
        [1.5, 0.5, 48],
        [2, 1, 45],
        [3, 1, 43],
      ],
    ],
  }),
  figure({
    ...BASS,
    name: 'Winch line',
    tags: ['pick'],
    program: 34,
    key: 'E minor',
    bpm: 104,
    metre: '4/4',
    figure: [
      [
        [0, 0.75, 40],
        [0.75, 0.25, 40],
        [1.5, 0.5, 47],
        [2, 1, 40],
        [3, 0.5, 43],
        [3.5, 0.5, 45],
      ],
      [
        [0, 0.75, 36],
        [0.75, 0.25, 36],
        [1.5, 0.5, 43],
        [2, 1, 36],
        [3, 1, 40],
      ],
      [
        [0, 0.75, 43],
        [0.75, 0.25, 43],
        [1.5, 0.5, 50],
        [2, 1, 43],
        [3, 1, 47],
      ],
      [
        [0, 0.75, 35],
        [0.75, 0.25, 35],
        [1.5, 0.5, 42],
        [2, 1, 47],
        [3, 0.5, 39],
        [3.5, 0.5, 39],
      ],
    ],
  }),
  figure({
    ...BASS,
    name: 'Anchor pulse',
    tags: ['eighths'],
    key: 'A minor',
    bpm: 120,
    metre: '4/4',
    figure: [
      broken(4, 0.5, [33, 33, 45, 33, 33, 33, 40, 43]),
      broken(4, 0.5, [29, 29, 41, 29, 31, 31, 43, 32]),
    ],
  }),
  figure({
    ...BASS,
    name: 'Slow keel',
    tags: ['long notes'],
    key: 'D major',
    bpm: 72,
    metre: '4/4',
    figure: [
      [
        [0, 3, 38],
        [3, 1, 42],
      ],
      [
        [0, 2, 43],
        [2, 2, 45],
      ],
    ],
  }),
  figure({
    ...BASS,
    name: 'Gangway in three',
    tags: ['waltz'],
    key: 'G major',
    bpm: 126,
    metre: '3/4',
    figure: [
      [
        [0, 2, 43],
        [2, 1, 47],
      ],
      [
        [0, 2, 40],
        [2, 1, 43],
      ],
      [
        [0, 2, 36],
        [2, 1, 40],
      ],
      [
        [0, 2, 38],
        [2, 1, 42],
      ],
    ],
  }),
  figure({
    ...KEYS,
    name: 'Cabin chords',
    tags: ['electric piano', 'soft'],
    key: 'C major',
    bpm: 92,
    metre: '4/4',
    figure: [
      struck(
        [
          [0, 1.8],
          [2.5, 1.2],
        ],
        [48, 60, 64, 67],
      ),
      struck(
        [
          [0, 1.8],
          [2.5, 1.2],
        ],
        [45, 60, 64, 69],
      ),
      struck(
        [
          [0, 1.8],
          [2.5, 1.2],
        ],
        [41, 60, 65, 69],
      ),
      struck(
        [
          [0, 1.8],
          [2.5, 1.2],
        ],
        [43, 59, 62, 67],
      ),
    ],
  }),
  figure({
    ...KEYS,
    name: 'Night crossing',
    program: 0,
    tags: ['piano'],
    key: 'A minor',
    bpm: 84,
    metre: '4/4',
    figure: [
      broken(4, 0.5, [45, 57, 60, 64, 60, 57, 64, 60]),
      broken(4, 0.5, [41, 57, 60, 65, 60, 57, 65, 60]),
      broken(4, 0.5, [38, 57, 62, 65, 62, 57, 65, 62]),
      broken(4, 0.5, [40, 56, 59, 64, 59, 56, 64, 59]),
    ],
  }),
  figure({
    ...KEYS,
    name: 'Harbour organ',
    program: 16,
    tags: ['organ', 'held'],
    key: 'D major',
    bpm: 110,
    metre: '4/4',
    figure: [
      [[0, 3.8, 50, 62, 66, 69]],
      [
        [0, 1.9, 43, 62, 67, 71],
        [2, 1.9, 45, 61, 64, 69],
      ],
    ],
  }),
  figure({
    ...KEYS,
    name: 'Rain on deck',
    program: 0,
    tags: ['piano', 'high'],
    key: 'B minor',
    bpm: 98,
    metre: '4/4',
    figure: [
      broken(4, 0.5, [71, 74, 78, 74]),
      broken(4, 0.5, [67, 71, 74, 71]),
      broken(4, 0.5, [69, 74, 78, 74]),
      broken(4, 0.5, [66, 70, 73, 70]),
    ],
  }),
  figure({
    ...KEYS,
    name: 'Quay in six',
    tags: ['electric piano', 'six eight'],
    key: 'E minor',
    bpm: 93,
    metre: '6/8',
    figure: [broken(3, 0.5, [52, 59, 64, 67, 64, 59]), broken(3, 0.5, [48, 55, 64, 67, 64, 55])],
  }),
  figure({
    ...GUITAR,
    name: 'Open strum',
    tags: ['steel guitar'],
    key: 'G major',
    bpm: 96,
    metre: '4/4',
    figure: [
      struck(STRUM, [43, 47, 50, 55, 59, 67]),
      struck(STRUM, [40, 47, 52, 55, 59, 64]),
      struck(STRUM, [48, 52, 55, 60, 64]),
      struck(STRUM, [50, 57, 62, 66]),
    ],
  }),
  figure({
    ...GUITAR,
    name: 'Lamp room',
    program: 24,
    tags: ['nylon guitar', 'picked'],
    key: 'D minor',
    bpm: 88,
    metre: '4/4',
    figure: [
      broken(4, 0.5, [50, 57, 62, 65, 62, 57, 65, 62]),
      broken(4, 0.5, [46, 58, 62, 65, 62, 58, 65, 62]),
      broken(4, 0.5, [43, 58, 62, 67, 62, 58, 67, 62]),
      broken(4, 0.5, [45, 57, 61, 64, 61, 57, 64, 61]),
    ],
  }),
  figure({
    ...GUITAR,
    name: 'Muted eighths',
    program: 28,
    tags: ['electric guitar'],
    key: 'E major',
    bpm: 118,
    metre: '4/4',
    figure: [
      broken(4, 0.5, [40, 40, 47, 40, 40, 52, 47, 40]),
      broken(4, 0.5, [45, 45, 52, 45, 47, 54, 51, 47]),
    ],
  }),
  figure({
    ...GUITAR,
    name: 'Quay waltz',
    tags: ['steel guitar', 'waltz'],
    key: 'A major',
    bpm: 144,
    metre: '3/4',
    figure: [
      struck(WALTZ_STRUM, [45, 52, 57, 61, 64]),
      struck(WALTZ_STRUM, [42, 49, 54, 57, 61]),
      struck(WALTZ_STRUM, [50, 57, 62, 66]),
      struck(WALTZ_STRUM, [40, 47, 52, 56, 59]),
    ],
  }),
  {
    name: 'Bell at six',
    kind: 'recording',
    material: 'other',
    tags: ['one stroke'],
    program: 14,
    key: 'G major',
    metre: '4/4',
    bars: 1,
    notes: [{ beat: 0, beats: 5, midi: 67, velocity: 100 }],
  },
  {
    name: 'Fog',
    kind: 'recording',
    material: 'keys',
    tags: ['held'],
    program: 89,
    key: 'E minor',
    metre: '4/4',
    bars: 2,
    notes: [52, 59, 64, 67].map((midi, i) => ({ beat: 0.3 * i, beats: 7.2 - 0.3 * i, midi, velocity: 70 })),
  },
  figure({
    ...PHRASE,
    name: 'Ferry riff',
    program: 81,
    tags: ['synth'],
    key: 'G major',
    bpm: 92,
    metre: '4/4',
    figure: [
      [
        [0, 0.5, 67],
        [0.5, 0.5, 71],
        [1, 1, 74],
        [2, 0.5, 76],
        [2.5, 0.5, 74],
        [3, 1, 71],
      ],
      [
        [0, 0.5, 69],
        [0.5, 0.5, 72],
        [1, 1, 74],
        [2, 2, 71],
      ],
    ],
  }),
  figure({
    ...PHRASE,
    name: 'Slow gulls',
    program: 4,
    tags: ['electric piano'],
    key: 'C major',
    bpm: 84,
    metre: '4/4',
    figure: [
      [
        [0, 2, 60, 67, 76],
        [2, 2, 74],
      ],
      [
        [0, 2, 57, 64, 72],
        [2, 2, 71],
      ],
      [
        [0, 2, 53, 65, 69],
        [2, 2, 72],
      ],
      [[0, 4, 55, 62, 71]],
    ],
  }),
  figure({
    ...PHRASE,
    name: 'Kettle figure',
    program: 0,
    tags: ['piano', 'waltz'],
    key: 'D minor',
    bpm: 126,
    metre: '3/4',
    figure: [
      [
        [0, 1, 62],
        [1, 1, 65],
        [2, 1, 69],
      ],
      [
        [0, 2, 70],
        [2, 1, 69],
      ],
      [
        [0, 1, 67],
        [1, 1, 65],
        [2, 1, 64],
      ],
      [[0, 3, 61]],
    ],
  }),
  figure({
    ...PHRASE,
    material: 'other',
    name: 'Gull song',
    program: 73,
    tags: ['flute'],
    key: 'A minor',
    bpm: 100,
    metre: '4/4',
    figure: [
      [
        [0, 1.5, 76],
        [1.5, 0.5, 74],
        [2, 1, 72],
        [3, 1, 71],
      ],
      [
        [0, 1, 69],
        [1, 1, 71],
        [2, 2, 72],
      ],
    ],
  }),
  figure({
    ...PHRASE,
    material: 'other',
    name: 'Held horizon',
    program: 48,
    tags: ['strings'],
    key: 'C major',
    bpm: 80,
    metre: '4/4',
    figure: [[[0, 4, 60, 64, 67]], [[0, 4, 57, 65, 69]], [[0, 4, 59, 62, 67]], [[0, 4, 60, 64, 72]]],
  }),
  {
    ...beat('Dockside claps', 92, '4/4', 1, 4, ['clap'], { 39: '....X.......X..x', 54: 'x.x.x.x.x.x.x.x.' }),
    kind: 'phrase',
  },
];
