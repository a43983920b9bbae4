/**
 * The two sets of clips, built from different material:
 *
 * - tuning: FluidR3 Mono and MuseScore General samples (a family that shares recordings) and the source–filter singer; looked at freely while the method is developed.
 * - test: TimGM6mb samples (another family of recordings) and the additive singer; never trained on (docs/accuracy.md).
 */
import { loadBank } from '@plundra/demo';
import type { Clip } from './clip.ts';
import { instrumentClip, type Instrument } from './instruments.ts';
import { additiveClip, sourceFilterClip, type SingerPlan } from './singers.ts';

const instrument = (
  name: string,
  program: number,
  lowMidi: number,
  highMidi: number,
  kind: Clip['kind'],
  vibratoCents: number,
  slides: number,
): Instrument => ({ name, program, lowMidi, highMidi, kind, vibratoCents, slides });

const INSTRUMENTS: Instrument[] = [
  instrument('nylon guitar', 24, 45, 76, 'guitar', 0, 0.1),
  instrument('steel guitar', 25, 45, 76, 'guitar', 0, 0.15),
  instrument('clean electric guitar', 27, 45, 81, 'guitar', 20, 0.2),
  instrument('lead guitar', 29, 52, 84, 'guitar', 40, 0.25),
  instrument('finger bass', 33, 28, 50, 'bass', 0, 0.1),
  instrument('fretless bass', 35, 28, 52, 'bass', 25, 0.2),
  instrument('piano', 0, 48, 84, 'auto', 0, 0),
  instrument('electric piano', 4, 48, 84, 'auto', 0, 0),
  instrument('violin', 40, 57, 88, 'auto', 35, 0.1),
  instrument('cello', 42, 40, 67, 'auto', 30, 0.1),
  instrument('choir', 52, 50, 76, 'voice', 0, 0),
  instrument('trumpet', 56, 55, 82, 'auto', 25, 0.1),
  instrument('alto saxophone', 65, 50, 80, 'auto', 30, 0.2),
  instrument('clarinet', 71, 50, 84, 'auto', 15, 0.1),
  instrument('flute', 73, 60, 93, 'auto', 35, 0.05),
  instrument('lead synth', 81, 48, 84, 'auto', 20, 0.2),
];

/** More material for tuning only. */
const MORE_FOR_TUNING: Instrument[] = [
  instrument('vibraphone', 11, 53, 84, 'auto', 0, 0),
  instrument('church organ', 19, 48, 79, 'auto', 0, 0),
  instrument('harmonica', 22, 60, 84, 'auto', 20, 0.2),
  instrument('acoustic bass', 32, 28, 50, 'bass', 0, 0.1),
  instrument('ensemble strings', 48, 48, 79, 'auto', 0, 0.05),
  instrument('choir oohs', 53, 50, 76, 'voice', 10, 0.1),
  instrument('choir', 52, 48, 79, 'voice', 15, 0.1),
  instrument('oboe', 68, 58, 86, 'auto', 25, 0.1),
  instrument('recorder', 74, 60, 90, 'auto', 20, 0.05),
];

const SINGERS: SingerPlan[] = [
  { name: 'soprano', lowMidi: 62, highMidi: 81, tract: 1.12, vibratoCents: 60, legato: 0.4, hall: false },
  { name: 'alto', lowMidi: 56, highMidi: 74, tract: 1.03, vibratoCents: 40, legato: 0.5, hall: false },
  { name: 'tenor', lowMidi: 50, highMidi: 69, tract: 0.93, vibratoCents: 45, legato: 0.4, hall: false },
  { name: 'bass voice', lowMidi: 41, highMidi: 62, tract: 0.86, vibratoCents: 30, legato: 0.4, hall: false },
  {
    name: 'wide vibrato',
    lowMidi: 55,
    highMidi: 77,
    tract: 1.05,
    vibratoCents: 110,
    legato: 0.5,
    hall: false,
  },
  { name: 'tenor', lowMidi: 50, highMidi: 69, tract: 0.95, vibratoCents: 50, legato: 0.5, hall: true },
  { name: 'soprano', lowMidi: 60, highMidi: 79, tract: 1.1, vibratoCents: 60, legato: 0.4, hall: true },
];

export type SetName = 'tuning' | 'test';

/** Builds a set one clip at a time; `rounds` versions of each clip with seeds of their own. */
export async function* buildSet(name: SetName, rounds: number, firstRound = 0): AsyncGenerator<Clip> {
  const tuning = name === 'tuning';
  const banks = await Promise.all(
    tuning ? [loadBank('FluidR3Mono_GM'), loadBank('MuseScore_General_Lite')] : [loadBank('TimGM6mb')],
  );
  const instruments = tuning ? [...INSTRUMENTS, ...MORE_FOR_TUNING] : INSTRUMENTS;
  const firstSeed = tuning ? 1000 : 500000;
  for (let round = firstRound; round < firstRound + rounds; round++) {
    for (const [i, each] of instruments.entries()) {
      yield instrumentClip(banks[round % banks.length], each, firstSeed + round * 100 + i);
    }
    for (const [i, plan] of SINGERS.entries()) {
      const seed = firstSeed + 90000 + round * 100 + i;
      yield tuning ? sourceFilterClip(plan, seed) : additiveClip(plan, seed);
    }
  }
}
