/**
 * More rhythms that are played, from many styles (common practice, from memory), for training: in patterns by chance the beat is often
 * anybody's guess, in these it is not. Some are kept apart, to choose by what was trained on the others.
 */
import { KEYS, METRES, type DrumPattern, type Metre } from './patterns.ts';

const { KICK, SNARE, STICK, HAT, OPEN, RIDE, TOM, SHAKER, CONGA, SLAP, TAMBOURINE } = KEYS;
const PEDAL = 44;
const CLAP = 39;
const COWBELL = 56;
const BELL = 53;
const FLOOR_TOM = 41;
const BONGO = 60;
const CLAVES = 75;
const TRIANGLE = 81;
const { TWO, THREE, FOUR, FIVE, SEVEN, SIX_EIGHT, NINE_EIGHT, TWELVE_EIGHT } = METRES;

type Line = readonly [key: number, line: string];

const even = (
  name: string,
  metre: Metre,
  steps: 2 | 3 | 4,
  bpm: readonly [number, number],
  ...lines: Line[]
): DrumPattern => ({ name, metre, steps, bpm, lines });

const swinging = (...all: Parameters<typeof even>): DrumPattern => ({ ...even(...all), swings: true });

// prettier-ignore
export const PRACTICE_PATTERNS: readonly DrumPattern[] = [
  // In four, eighths.
  swinging('two kicks', FOUR, 2, [84, 150], [KICK, 'X...XX..'], [SNARE, '..X...X.'], [HAT, 'XxXxXxXx']),
  swinging('kick before three', FOUR, 2, [76, 140], [KICK, 'X..X....'], [SNARE, '..X...X.'], [HAT, 'XxXxXxXx']),
  swinging('hat in quarters', FOUR, 2, [96, 176], [KICK, 'X..XX...'], [SNARE, '..X...X.'], [HAT, 'X.X.X.X.']),
  even('open on the off-beat', FOUR, 2, [104, 140], [KICK, 'X...X..x'], [SNARE, '..X...X.'], [HAT, 'X.X.X.X.'], [OPEN, '.X.X.X.X']),
  even('ride in quarters', FOUR, 2, [110, 184], [KICK, 'X...X.X.'], [SNARE, '..X...X.'], [RIDE, 'X.X.X.X.']),
  swinging('ride in eighths', FOUR, 2, [88, 152], [KICK, 'X..x.XX.'], [SNARE, '..X...X.'], [RIDE, 'XxXxXxXx'], [PEDAL, '..x...x.']),
  even('surf', FOUR, 2, [140, 176], [KICK, 'X..XX...'], [SNARE, '..XX..X.'], [RIDE, 'XxXxXxXx']),
  even('punk', FOUR, 2, [160, 208], [KICK, 'X..XX..X'], [SNARE, '..X...X.'], [HAT, 'X.X.X.X.']),
  even('stomp', FOUR, 2, [76, 120], [KICK, 'XX..XX..'], [CLAP, '..X...X.']),
  even('tom-tom groove', FOUR, 2, [100, 150], [FLOOR_TOM, 'XxxXxxXx'], [TOM, '..X...X.'], [KICK, 'X.......']),
  even('rolling toms', FOUR, 2, [110, 160], [FLOOR_TOM, 'XxXxXxXx'], [SNARE, '..X...X.'], [KICK, 'X...X...']),
  swinging('clave three two', FOUR, 2, [150, 204], [CLAVES, 'X..X..X...X.X...'], [KICK, '...x..x....x..x.'], [COWBELL, 'X.X.X.X.X.X.X.X.']),
  even('clave two three', FOUR, 2, [150, 204], [CLAVES, '..X.X...X..X..X.'], [CONGA, '......xX......xX'], [SLAP, '..X.......X.....']),
  even('cha-cha', FOUR, 2, [108, 136], [COWBELL, 'X.X.X.X.'], [CONGA, '..x...XX'], [KICK, '......X.']),
  even('rumba, slow', FOUR, 2, [92, 124], [BONGO, 'XxxxXxxx'], [CONGA, '...x..XX'], [CLAVES, 'X..X..X...X.X...']),
  even('beguine', FOUR, 2, [96, 132], [STICK, '.xXx.xXx'], [KICK, 'X..XX...'], [SHAKER, 'xxxxxxxx']),
  even('calypso', FOUR, 2, [96, 132], [KICK, 'X..xX..x'], [SNARE, '...X..X.'], [HAT, 'X.X.X.X.']),
  even('ska', FOUR, 2, [120, 170], [KICK, '..X...X.'], [STICK, '..X...X.'], [HAT, '.X.X.X.X']),
  even('steppers', FOUR, 2, [120, 150], [KICK, 'X.X.X.X.'], [STICK, '....X...'], [HAT, 'XxXxXxXx']),
  even('rockers', FOUR, 2, [124, 156], [KICK, 'X...X...'], [SNARE, '....X...'], [HAT, 'XxXxXxXx'], [OPEN, '.......x']),
  even('foxtrot', FOUR, 2, [108, 140], [KICK, 'X...X...'], [SNARE, '..x...x.'], [HAT, 'x.x.x.x.']),
  even('two-beat', FOUR, 2, [150, 208], [KICK, 'X...X...'], [STICK, '..X...X.'], [PEDAL, '..x...x.']),
  even('brushes', FOUR, 2, [100, 168], [SNARE, 'XxxxXxxx'], [PEDAL, '..x...x.']),
  even('eighths on a drum', FOUR, 2, [72, 140], [CONGA, 'XxxxXxxx']),
  even('accents off the beat', FOUR, 2, [80, 132], [CONGA, 'Xx.xXxxx'], [SLAP, '..X.....']),
  even('metronome', FOUR, 2, [60, 200], [STICK, 'X.x.x.x.']),
  even('claps on two and four', FOUR, 2, [72, 150], [CLAP, '..X...X.'], [TAMBOURINE, 'x.x.x.x.']),
  // In four, sixteenths.
  swinging('late kick', FOUR, 4, [66, 104], [KICK, 'X......X..X.....'], [SNARE, '....X.......X...'], [HAT, 'X.x.X.x.X.x.X.x.']),
  swinging('boom bap', FOUR, 4, [80, 100], [KICK, 'X..x..x...X.....'], [SNARE, '....X.......X...'], [HAT, 'X.x.X.x.X.x.X.xx']),
  swinging('ghosts', FOUR, 4, [76, 108], [KICK, 'X.....x.X.......'], [SNARE, '....X..x.x..X...'], [HAT, 'X.x.X.x.X.x.X.x.']),
  even('two hands on the hat', FOUR, 4, [84, 118], [KICK, 'X.......X.x.....'], [SNARE, '....X.......X...'], [HAT, 'Xxxx.xxxXxxx.xxx']),
  even('trap', FOUR, 4, [126, 158], [KICK, 'X.....x...X.....'], [CLAP, '........X.......'], [HAT, 'X.x.X.x.X.xxX.x.']),
  even('half time, sixteenths', FOUR, 4, [64, 84], [KICK, 'X.x.......x.....'], [SNARE, '........X.......'], [HAT, 'X.xxX.xxX.xxX.xx']),
  even('disco', FOUR, 4, [108, 132], [KICK, 'X...X...X...X...'], [SNARE, '....X.......X...'], [HAT, 'X.xxX.xxX.xxX.xx'], [OPEN, '..X...X...X...X.']),
  even('techno', FOUR, 4, [120, 142], [KICK, 'X...X...X...X...'], [HAT, '..X...X...X...X.'], [CLAP, '....X.......X...'], [TOM, '...x..x....x..x.']),
  even('garage', FOUR, 4, [124, 136], [KICK, 'X.........X.....'], [SNARE, '....X.......X...'], [HAT, '..X...X..xX...X.']),
  even('drum and bass', FOUR, 4, [160, 178], [KICK, 'X.........X.....'], [SNARE, '....X.......X...'], [HAT, 'X.x.X.x.X.x.X.x.']),
  even('quick break', FOUR, 4, [150, 176], [KICK, 'X.X.......X.....'], [SNARE, '....X..x.x..X...'], [RIDE, 'X.x.X.x.X.x.X.x.']),
  even('electro', FOUR, 4, [104, 128], [KICK, 'X.....X...X.....'], [SNARE, '....X.......X...'], [COWBELL, 'X..X..X.X..X..X.'], [HAT, 'XxXxXxXxXxXxXxXx']),
  even('dembow', FOUR, 4, [84, 104], [KICK, 'X...X...X...X...'], [SNARE, '...X..X....X..X.']),
  even('samba', TWO, 4, [84, 124], [KICK, 'X..xX..x'], [STICK, 'X.x..x.X'], [HAT, 'XxxXXxxX']),
  even('samba for a street', TWO, 4, [108, 140], [FLOOR_TOM, '....X...'], [SHAKER, 'XxxXXxxX'], [SNARE, 'xxxXxxXx']),
  even('baião', TWO, 4, [88, 124], [KICK, 'X..X..x.'], [TRIANGLE, 'xxXxxxXx'], [SNARE, '......X.']),
  even('maracatu', TWO, 4, [84, 108], [FLOOR_TOM, 'X..X..X.'], [SNARE, 'xxxXxxXx'], [COWBELL, 'X.X..X.X']),
  even('partido', FOUR, 4, [84, 112], [KICK, 'X..xX..xX..xX..x'], [TAMBOURINE, '.xX.x.X.x.X.xX.x'], [SHAKER, 'XxxxXxxxXxxxXxxx']),
  even('songo', FOUR, 4, [84, 112], [KICK, '...x..X....x..X.'], [SNARE, '....X..x.xx.X..x'], [COWBELL, 'X...X...X...X...']),
  even('afrobeat', FOUR, 4, [92, 124], [KICK, 'X.x...x.X.x...x.'], [SNARE, '....x..X..x.x..X'], [SHAKER, 'X.xxX.xxX.xxX.xx']),
  even('highlife', FOUR, 4, [96, 124], [KICK, 'X...X...X...X...'], [BELL, 'X.xX.x.X.xX.x.x.'], [STICK, '....X.......X...']),
  even('soca', FOUR, 4, [108, 132], [KICK, 'X...X...X...X...'], [SNARE, '...X..X....X..X.'], [HAT, '..X...X...X...X.']),
  swinging('second line', FOUR, 4, [84, 112], [KICK, 'X..X....X..X..X.'], [SNARE, 'X.xXxxX.xxXxX.xx']),
  swinging('hand-clap sixteenths', FOUR, 4, [72, 108], [TAMBOURINE, 'xxXxxxXxxxXxxxXx'], [CLAP, '....X.......X...']),
  even('ballad', FOUR, 4, [56, 84], [KICK, 'X.....x.X.......'], [STICK, '....X.......X...'], [HAT, 'X.x.X.x.X.x.X.x.']),
  even('ballad with sixteenths', FOUR, 4, [54, 78], [KICK, 'X.......X.x.....'], [SNARE, '....X.......X...'], [HAT, 'XxxxXxxxXxxxXxxx']),
  even('sixteenths on a shaker', FOUR, 4, [76, 116], [SHAKER, 'XxxxXxxxXxxxXxxx']),
  even('sixteenths on a conga', FOUR, 4, [84, 120], [SLAP, '....X.......X...'], [CONGA, 'xxx..xXXxxx..xXX']),
  even('tambourine and kick', FOUR, 4, [80, 124], [KICK, 'X...X...X...X...'], [TAMBOURINE, 'x.xxX.xxx.xxX.xx']),
  // In four, triplets.
  even('half-time shuffle', FOUR, 3, [84, 152], [KICK, 'X....x......'], [SNARE, '.x..x.X..x..'], [HAT, 'X.xX.xX.xX.x']),
  even('quick shuffle', FOUR, 3, [120, 200], [KICK, 'X..X..X..X..'], [SNARE, '...X.....X..'], [RIDE, 'X.xX.xX.xX.x']),
  even('shuffle on a snare', FOUR, 3, [108, 168], [KICK, 'X..X..X..X..'], [SNARE, 'x.xX.xx.xX.x']),
  even('slow swing', FOUR, 3, [60, 112], [RIDE, 'X..X.xX..X.x'], [PEDAL, '...X.....X..'], [SNARE, '.....x......']),
  even('quick swing', FOUR, 3, [170, 215], [RIDE, 'X..X.xX..X.x'], [PEDAL, '...X.....X..'], [KICK, 'x..x..x..x..']),
  even('swing, comping', FOUR, 3, [108, 184], [RIDE, 'X..X.xX..X.x'], [PEDAL, '...X.....X..'], [SNARE, '..x..x.....x'], [KICK, '.........x..']),
  even('glam', FOUR, 3, [120, 150], [KICK, 'X..X..X..X..'], [SNARE, '...X.....X..'], [FLOOR_TOM, 'x.xx.xx.xx.x']),
  even('triplets on the hat', FOUR, 3, [56, 88], [KICK, 'X.....X..x..'], [SNARE, '...X.....X..'], [HAT, 'XxxXxxXxxXxx']),
  // In two.
  even('marching off', TWO, 2, [104, 126], [KICK, 'X.x.'], [SNARE, 'XxXx'], [PEDAL, '.x.x']),
  even('oom-pah', TWO, 2, [84, 132], [KICK, 'X...'], [SNARE, '..X.']),
  even('quick two', TWO, 2, [120, 160], [KICK, 'X.X.'], [STICK, '.X.X']),
  even('reel', TWO, 4, [96, 120], [KICK, 'X...X...'], [TAMBOURINE, 'XxXxXxXx']),
  even('tango', TWO, 4, [52, 70], [KICK, 'X..XX.X.'], [SNARE, 'x.x.x.xx']),
  even('habanera', TWO, 4, [54, 80], [KICK, 'X..XX.X.'], [STICK, 'x.x.x.x.']),
  even('hornpipe', TWO, 3, [76, 104], [TAMBOURINE, 'X.xX.x'], [KICK, 'X..x..']),
  even('galop', TWO, 4, [116, 150], [KICK, 'X...X...'], [SNARE, '..x...xx']),
  // In three.
  even('waltz on a ride', THREE, 2, [96, 190], [KICK, 'X.....'], [RIDE, 'X.x.x.'], [PEDAL, '..x.x.']),
  even('mazurka', THREE, 2, [112, 160], [KICK, 'X.....'], [SNARE, 'x.X.x.'], [TAMBOURINE, 'xxX.x.']),
  even('musette', THREE, 2, [150, 208], [KICK, 'X.....'], [HAT, '..x.x.']),
  swinging('three on the hat', THREE, 2, [84, 160], [KICK, 'X..x..'], [SNARE, '....X.'], [HAT, 'XxXxXx']),
  even('minuet', THREE, 2, [96, 132], [TAMBOURINE, 'X.x.xx'], [KICK, 'X.....']),
  even('three, sixteenths', THREE, 4, [60, 104], [KICK, 'X.....x.x...'], [SNARE, '....X.......'], [HAT, 'XxxxXxxxXxxx']),
  even('waltz of a band', THREE, 2, [110, 180], [KICK, 'X.....X.....'], [SNARE, '..x.x...x.xx'], [RIDE, 'X.x.x.X.x.x.']),
  even('folk three', THREE, 2, [88, 144], [FLOOR_TOM, 'X.....'], [TAMBOURINE, '..x.x.'], [SHAKER, 'XxXxXx']),
  even('three, swung', THREE, 3, [80, 150], [KICK, 'X.....x..'], [SNARE, '...X.....'], [HAT, 'X.xX.xX.x']),
  // Beats in threes.
  even('six on a ride', SIX_EIGHT, 3, [50, 96], [KICK, 'X.....'], [STICK, '...X..'], [RIDE, 'XxxXxx']),
  even('six, hat in quarters', SIX_EIGHT, 3, [48, 92], [KICK, 'X...x.'], [SNARE, '...X..'], [HAT, 'X.xX.x']),
  even('six, two bars', SIX_EIGHT, 3, [46, 80], [KICK, 'X....xX.x...'], [SNARE, '...X.....X..'], [HAT, 'XxxXxxXxxXxx']),
  even('tarantella', SIX_EIGHT, 3, [120, 160], [TAMBOURINE, 'XxxXxx'], [KICK, 'X.....']),
  even('quick six', SIX_EIGHT, 3, [108, 138], [SNARE, 'XxxXxx'], [KICK, 'X..X..']),
  even('bell in six', SIX_EIGHT, 3, [96, 138], [BELL, 'X.XxX.'], [KICK, 'X..X..'], [SHAKER, 'XxxXxx']),
  even('march in six', SIX_EIGHT, 3, [108, 124], [KICK, 'X..X..'], [SNARE, 'X.xX.x']),
  even('six eighths, strolling', SIX_EIGHT, 3, [60, 110], [KICK, 'X.....'], [TAMBOURINE, '..xX.x']),
  even('twelve, bell', TWELVE_EIGHT, 3, [80, 130], [COWBELL, 'X.X.XX.X.X.X'], [KICK, 'X..X..X..X..'], [CONGA, '..xx....xx..']),
  even('doo-wop', TWELVE_EIGHT, 3, [54, 92], [KICK, 'X.....X.....'], [SNARE, '...X.....X..'], [RIDE, 'XxxXxxXxxXxx']),
  even('soul in twelve', TWELVE_EIGHT, 3, [50, 80], [KICK, 'X..x..X.x...'], [STICK, '...X.....X..'], [HAT, 'X.xX.xX.xX.x']),
  even('twelve, half time', TWELVE_EIGHT, 3, [60, 100], [KICK, 'X....x......'], [SNARE, '......X.....'], [HAT, 'XxxXxxXxxXxx']),
  even('slip jig', NINE_EIGHT, 3, [96, 132], [TAMBOURINE, 'X.xXxxX.x'], [KICK, 'X........']),
  // In five and seven.
  even('five on the hat', FIVE, 2, [90, 168], [KICK, 'X..x..X...'], [SNARE, '..X.....X.'], [HAT, 'XxXxXxXxXx']),
  even('five, three and two', FIVE, 2, [110, 184], [KICK, 'X.....X...'], [SNARE, '..x.x...X.'], [RIDE, 'X.X.X.X.X.']),
  even('five, sixteenths', FIVE, 4, [70, 112], [KICK, 'X.....x.....X.......'], [SNARE, '....X...........X...'], [HAT, 'X.x.X.x.X.x.X.x.X.x.']),
  even('seven on the hat', SEVEN, 2, [100, 184], [KICK, 'X...X...X.....'], [SNARE, '..X...X.....X.'], [HAT, 'XxXxXxXxXxXxXx']),
  even('seven, four and three', SEVEN, 2, [96, 160], [KICK, 'X..xX...X...x.'], [SNARE, '....X.......X.'], [RIDE, 'X.X.X.X.X.X.X.']),
];

/** No network is trained on these. */
// prettier-ignore
export const APART_PATTERNS: readonly DrumPattern[] = [
  swinging('kick on four and', FOUR, 2, [84, 148], [KICK, 'X....x.X'], [SNARE, '..X...X.'], [HAT, 'XxXxXxXx']),
  even('mambo', FOUR, 2, [160, 204], [COWBELL, 'X.XXX.XX'], [CONGA, '..x...XX'], [KICK, '...X....']),
  even('bolero', FOUR, 2, [84, 116], [BONGO, 'X.xxx.x.'], [KICK, 'X...x.x.']),
  swinging('hip hop, sparse', FOUR, 4, [82, 98], [KICK, 'X.x.......x..x..'], [SNARE, '....X.......X...'], [HAT, 'X.x.X.x.X.x.X.x.']),
  even('house with a shaker', FOUR, 4, [114, 128], [KICK, 'X...X...X...X...'], [SHAKER, 'xxXxxxXxxxXxxxXx'], [CLAP, '....X.......X...']),
  even('rock ballad', FOUR, 4, [60, 82], [KICK, 'X..x..x.X..x....'], [SNARE, '....X.......X...'], [RIDE, 'X.x.X.x.X.x.X.x.']),
  even('blues shuffle', FOUR, 3, [76, 132], [KICK, 'X..x..X.xx..'], [SNARE, '...X.....X..'], [HAT, 'X.xX.xX.xX.x']),
  even('big band', FOUR, 3, [120, 200], [RIDE, 'X..X.xX..X.x'], [PEDAL, '...X.....X..'], [KICK, 'X..X..X..X..'], [SNARE, '.........X..']),
  even('ländler', THREE, 2, [84, 138], [KICK, 'X.....'], [SNARE, '..X.X.'], [PEDAL, '..x.x.']),
  even('rock in three', THREE, 2, [90, 164], [KICK, 'X....x'], [SNARE, '..X.X.'], [RIDE, 'X.X.X.']),
  even('slow six', SIX_EIGHT, 3, [44, 72], [KICK, 'X.xX..'], [SNARE, '...X..'], [OPEN, 'X.....'], [HAT, '.xxxxx']),
  even('quick jig on a drum', SIX_EIGHT, 3, [104, 132], [CONGA, 'XxxXxx'], [SLAP, '...x..']),
  even('oompah', TWO, 2, [92, 126], [KICK, 'X...'], [SNARE, '.x.x'], [TAMBOURINE, '..X.']),
  even('twelve, rolling', TWELVE_EIGHT, 3, [52, 88], [KICK, 'X....xX..x..'], [SNARE, '...X.....X..'], [HAT, 'XxxXxxXxxXxx']),
];
