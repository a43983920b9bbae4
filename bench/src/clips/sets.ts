/**
 * Three sets of clips, built from different material:
 *
 * - tuning: FluidR3 Mono and MuseScore General samples (a family that shares recordings) and the source–filter
 *   singer; looked at freely while the method is developed, and trained on (other rounds).
 * - check: TimGM6mb samples (another family of recordings) and the additive singer; the note network learns from
 *   other rounds of it.
 * - test: notes of real instruments recorded one by one (npm tonejs-instrument-*-mp3) and the formant-wave singer;
 *   neither trained on nor looked at while the method was made (docs/accuracy.md).
 */
import { loadBank } from '@plundra/demo';
import type { Clip } from './clip.ts';
import { instrumentClip, type Instrument } from './instruments.ts';
import { bankPlayer, recordedPlayer, type Player } from './players.ts';
import { loadRecordedNotes } from './recordedNotes.ts';
import { additiveClip, fofClip, sourceFilterClip, type SingerPlan } from './singers.ts';

interface Sampled extends Instrument {
  /** General MIDI program in a sound bank. */
  program: number;
}

const instrument = (
  name: string,
  program: number,
  lowMidi: number,
  highMidi: number,
  kind: Clip['kind'],
  vibratoCents: number,
  slides: number,
): Sampled => ({ name, program, lowMidi, highMidi, kind, vibratoCents, slides });

const INSTRUMENTS: Sampled[] = [
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
const MORE_FOR_TUNING: Sampled[] = [
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

/** Recorded note by note: package, range, kind; natural players' vibrato is already in some of the notes. */
const RECORDED: (Instrument & { source: string })[] = [
  ['nylon guitar', 'guitar-nylon', 45, 79, 'guitar', 0, 0.1],
  ['acoustic guitar', 'guitar-acoustic', 45, 72, 'guitar', 0, 0.15],
  ['electric guitar', 'guitar-electric', 45, 81, 'guitar', 25, 0.2],
  ['electric bass', 'bass-electric', 28, 52, 'bass', 0, 0.15],
  ['violin', 'violin', 57, 88, 'auto', 0, 0.1],
  ['cello', 'cello', 40, 67, 'auto', 0, 0.1],
  ['flute', 'flute', 60, 90, 'auto', 20, 0.05],
  ['clarinet', 'clarinet', 52, 82, 'auto', 15, 0.1],
  ['bassoon', 'bassoon', 45, 70, 'auto', 0, 0.05],
  ['saxophone', 'saxophone', 50, 79, 'auto', 25, 0.2],
  ['trumpet', 'trumpet', 55, 81, 'auto', 20, 0.1],
  ['trombone', 'trombone', 42, 65, 'auto', 15, 0.15],
  ['french horn', 'french-horn', 43, 72, 'auto', 0, 0.05],
].map(([name, source, lowMidi, highMidi, kind, vibratoCents, slides]) => ({
  name: name as string,
  source: source as string,
  lowMidi: lowMidi as number,
  highMidi: highMidi as number,
  kind: kind as Clip['kind'],
  vibratoCents: vibratoCents as number,
  slides: slides as number,
}));

export type SetName = 'tuning' | 'check' | 'test';

const FIRST_SEED: Record<SetName, number> = { tuning: 1000, check: 500000, test: 7400000 };
const SING = { tuning: sourceFilterClip, check: additiveClip, test: fofClip };

/** Builds a set one clip at a time; `rounds` versions of each clip with seeds of their own. */
export async function* buildSet(name: SetName, rounds: number, firstRound = 0): AsyncGenerator<Clip> {
  const players = await loadPlayers(name);
  const firstSeed = FIRST_SEED[name];
  for (let round = firstRound; round < firstRound + rounds; round++) {
    for (const [i, { instrument: each, player }] of players.entries()) {
      yield instrumentClip(player(round), each, firstSeed + round * 100 + i);
    }
    for (const [i, plan] of SINGERS.entries()) yield SING[name](plan, firstSeed + 90000 + round * 100 + i);
  }
}

async function loadPlayers(
  name: SetName,
): Promise<{ instrument: Instrument; player: (round: number) => Player }[]> {
  if (name === 'test') {
    return Promise.all(
      RECORDED.map(async (each) => {
        const player = recordedPlayer(each.source, await loadRecordedNotes(each.source));
        return { instrument: each, player: () => player };
      }),
    );
  }
  const banks = await Promise.all(
    name === 'tuning'
      ? [loadBank('FluidR3Mono_GM'), loadBank('MuseScore_General_Lite')]
      : [loadBank('TimGM6mb')],
  );
  const instruments = name === 'tuning' ? [...INSTRUMENTS, ...MORE_FOR_TUNING] : INSTRUMENTS;
  return instruments.map((each) => ({
    instrument: each,
    player: (round) => bankPlayer(banks[round % banks.length], each.program),
  }));
}
