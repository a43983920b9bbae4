/**
 * Played lines to learn from: most single-line instruments of the open banks, with slurs, long notes, swells and
 * tremolo. The sets that figures are given for do not draw from here.
 */
import { loadBank } from '@plundra/demo';
import { createRandom, type Random } from '@plundra/core/signal';
import type { BasicSoundBank } from 'spessasynth_core';
import type { Clip } from './clip.ts';
import { instrumentClip, type Instrument } from './instruments.ts';
import { bankPlayer } from './players.ts';

/** How often notes are slurred, by what keeps an instrument sounding. */
const SLURS = { breath: 0.35, pluck: 0.12, keys: 0 };

type Row = [name: string, program: number, low: number, high: number, vibratoCents: number, slides: number];

/** General MIDI programs whose key is the pitch that is heard, with the range they are written for. */
const SOUNDS: Record<keyof typeof SLURS, Row[]> = {
  breath: [
    ['harmonica', 22, 60, 84, 20, 0.2],
    ['overdriven guitar', 29, 48, 84, 40, 0.25],
    ['distorted guitar', 30, 45, 84, 40, 0.25],
    ['violin', 40, 57, 90, 35, 0.15],
    ['viola', 41, 48, 79, 35, 0.15],
    ['cello', 42, 38, 69, 30, 0.15],
    ['contrabass', 43, 30, 55, 20, 0.1],
    ['tremolo strings', 44, 50, 79, 0, 0],
    ['ensemble strings', 48, 45, 79, 10, 0.05],
    ['slow strings', 49, 45, 79, 10, 0.05],
    ['choir', 52, 48, 79, 15, 0.1],
    ['choir oohs', 53, 48, 79, 15, 0.1],
    ['trumpet', 56, 54, 82, 25, 0.1],
    ['trombone', 57, 40, 70, 20, 0.25],
    ['tuba', 58, 29, 55, 10, 0.05],
    ['muted trumpet', 59, 55, 82, 25, 0.15],
    ['french horn', 60, 41, 74, 10, 0.05],
    ['brass section', 61, 43, 79, 10, 0.1],
    ['soprano saxophone', 64, 56, 86, 30, 0.2],
    ['alto saxophone', 65, 49, 80, 30, 0.2],
    ['tenor saxophone', 66, 44, 75, 30, 0.2],
    ['baritone saxophone', 67, 37, 68, 25, 0.15],
    ['oboe', 68, 58, 88, 25, 0.1],
    ['english horn', 69, 52, 81, 25, 0.1],
    ['bassoon', 70, 35, 70, 15, 0.05],
    ['clarinet', 71, 50, 86, 12, 0.1],
    ['piccolo', 72, 74, 97, 30, 0.05],
    ['flute', 73, 60, 94, 35, 0.05],
    ['recorder', 74, 60, 90, 20, 0.05],
    ['pan flute', 75, 58, 88, 20, 0.1],
    ['whistle', 78, 60, 79, 30, 0.15],
    ['ocarina', 79, 60, 86, 20, 0.1],
    ['square wave', 80, 40, 86, 20, 0.2],
    ['sawtooth wave', 81, 40, 86, 20, 0.2],
    ['fiddle', 110, 55, 88, 25, 0.25],
  ],
  pluck: [
    ['nylon guitar', 24, 40, 79, 10, 0.1],
    ['steel guitar', 25, 40, 79, 10, 0.15],
    ['jazz guitar', 26, 40, 79, 10, 0.15],
    ['clean electric guitar', 27, 40, 81, 20, 0.2],
    ['muted guitar', 28, 40, 74, 0, 0.05],
    ['acoustic bass', 32, 28, 52, 10, 0.15],
    ['finger bass', 33, 28, 52, 5, 0.1],
    ['picked bass', 34, 28, 52, 5, 0.1],
    ['fretless bass', 35, 28, 55, 25, 0.25],
    ['slapped bass', 36, 28, 52, 0, 0.1],
    ['synthesiser bass', 38, 28, 52, 0, 0.1],
    ['pizzicato strings', 45, 43, 84, 0, 0],
    ['harp', 46, 40, 90, 0, 0],
    ['banjo', 105, 50, 80, 0, 0.15],
    ['shamisen', 106, 50, 77, 10, 0.15],
    ['koto', 107, 50, 81, 10, 0.15],
    ['kalimba', 108, 57, 84, 0, 0],
  ],
  keys: [
    ['grand piano', 0, 33, 96, 0, 0],
    ['bright piano', 1, 36, 93, 0, 0],
    ['electric grand', 2, 36, 93, 0, 0],
    ['electric piano', 4, 36, 93, 0, 0],
    ['tine piano', 5, 36, 93, 0, 0],
    ['clavinet', 7, 38, 81, 0, 0],
    ['vibraphone', 11, 53, 89, 0, 0],
    ['marimba', 12, 48, 89, 0, 0],
    ['church organ', 19, 48, 79, 0, 0],
    ['reed organ', 20, 48, 79, 0, 0],
  ],
};

const TRAINING_BANKS = ['FluidR3Mono_GM', 'MuseScore_General_Lite', 'TimGM6mb'] as const;
/** Half of the resolution of what a studio records is enough: nothing is read above 11 kHz. */
const RATE_HZ = 22050;

/** One clip of each instrument, each on one of the banks that may be learned from. */
export async function* variedPlaying(round: number): AsyncGenerator<Clip> {
  const banks: BasicSoundBank[] = await Promise.all(TRAINING_BANKS.map(loadBank));
  let index = 0;
  for (const [keeps, rows] of Object.entries(SOUNDS) as [keyof typeof SLURS, Row[]][])
    for (const [name, program, lowMidi, highMidi, vibratoCents, slides] of rows) {
      const seed = 3_000_000 + round * 100 + index++;
      const random = createRandom(seed);
      const instrument: Instrument = {
        name,
        kind: 'auto',
        vibratoCents,
        slides,
        ...within(lowMidi, highMidi, random),
      };
      if (highMidi <= 55) instrument.kind = 'bass';
      yield instrumentClip(bankPlayer(banks[(round + index) % banks.length], program), instrument, seed, {
        slurs: random() < 0.6 ? SLURS[keeps] : 0,
        slowness: random() < 0.25 ? 1.5 + 1.5 * random() : 1,
        swellDb: random() < 0.4 ? swell(random) : undefined,
        sampleRateHz: RATE_HZ,
      });
    }
}

/** A melody stays within two octaves or so of what the instrument reaches. */
function within(lowMidi: number, highMidi: number, random: Random) {
  const span = Math.min(highMidi - lowMidi, 18 + Math.floor(10 * random()));
  const low = lowMidi + Math.floor((highMidi - lowMidi - span + 1) * random());
  return { lowMidi: low, highMidi: low + span };
}

/** Tremolo of up to 8 dB, and a swell of up to 16 dB over seconds. */
function swell(random: Random): (seconds: number) => number {
  const tremoloDb = random() < 0.5 ? 4 * random() : 0;
  const tremoloHz = 3 + 5 * random();
  const swellDb = 8 * random();
  const swellHz = 0.1 + 0.3 * random();
  const phase = 2 * Math.PI * random();
  return (seconds) =>
    tremoloDb * Math.sin(2 * Math.PI * tremoloHz * seconds) +
    swellDb * Math.sin(2 * Math.PI * swellHz * seconds + phase);
}
