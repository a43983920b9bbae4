/** Readings of a file, with their progress on standard error. */
import { FASTEST_NEAR_BPM, SLOWEST_NEAR_BPM } from '@plundra/contract';
import { keptOnsets, type MelodyKind } from '@plundra/core/reading';
import {
  notesOf,
  readActivationsFile,
  readChordsFiles,
  readHitsFile,
  readMelodyFile,
  readShelfFile,
  readOnsetsFile,
} from '@plundra/server';
import { parseNumber, UsageError } from './usage.ts';

const KINDS: readonly MelodyKind[] = ['voice', 'guitar', 'bass', 'auto'];
/** Progress is shown for reads that take longer than this. */
const QUIET_MS = 2000;

export function parseKind(text: string): MelodyKind {
  const kind = KINDS.find((each) => each === text);
  if (!kind) throw new UsageError(`--kind must be one of ${KINDS.join(', ')}, not “${text}”.`);
  return kind;
}

/** A number from 0 to 1 as per cent. */
export function parseSensitivity(text: string): number {
  const sensitivity = Number(text);
  if (text === '' || !(sensitivity >= 0 && sensitivity <= 1))
    throw new UsageError(`--sensitivity must be a number from 0 to 1, not “${text}”.`);
  return 100 * sensitivity;
}

/** Reads a melody; long input tells its progress on standard error. */
export const readWithProgress = (path: string, kind: MelodyKind) =>
  readMelodyFile(path, kind, createTeller());

/** Reads all notes of a chordal recording; long input tells its progress on standard error. */
export const readNotesWithProgress = async (path: string, sensitivity: number) =>
  notesOf(await readActivationsFile(path, createTeller()), sensitivity);

/** Reads the hits of a drum recording; long input tells its progress on standard error. */
export const readHitsWithProgress = (path: string, sensitivity: number) =>
  readHitsFile(path, sensitivity, createTeller());

/** What `--near` tells of the tempo, in beats a minute. */
export const parseNear = (text: string | undefined): number | undefined =>
  text === undefined ? undefined : parseNumber('near', text, SLOWEST_NEAR_BPM, FASTEST_NEAR_BPM);

/** Reads tempo, key and chords; long input tells its progress on standard error. @param nearBpm what is known of the tempo */
export const readChordsWithProgress = async (path: string, nearBpm?: number) =>
  readChordsFiles([{ path, laterSeconds: 0 }], createTeller(), { nearBpm });

/** Tempo, key and kind of what may be a loop, and how long it is. `asLoop`: it is one, whatever it sounds like. */
export const readShelfWithProgress = async (path: string, asLoop: boolean) =>
  readShelfFile(path, createTeller(), asLoop);

/** Seconds of the onsets that a sensitivity of 0–1 keeps. */
export const readOnsetsWithProgress = async (path: string, sensitivity: number) =>
  keptOnsets((await readOnsetsFile(path, createTeller())).onsets, sensitivity).map(({ seconds }) => seconds);

function createTeller(): (share: number) => void {
  const started = Date.now();
  let told = -1;
  return (share) => {
    const percent = Math.floor(share * 10) * 10;
    if (Date.now() - started < QUIET_MS || percent === told) return;
    told = percent;
    process.stderr.write(`reading ${percent} %\n`);
  };
}
