/** `plundra tune`: a recorded line with its pitch and timing corrected. */
import { readFile } from 'node:fs/promises';
import { z } from 'zod';
import type { CorrectedNote } from '@plundra/core/retune';
import { createSong, createTimeMap, GRID_VALUES, pullToGrid } from '@plundra/core/song';
import { nearestInScale } from '@plundra/core/theory';
import {
  openRecording,
  parseKey,
  pitchOf,
  unchangedNote,
  writeCorrected,
  type OpenRecording,
} from './correctedFile.ts';
import { parseKind } from './readWithProgress.ts';
import { parseCommand, parseNumber, single, UsageError } from './usage.ts';

const targetsSchema = z.array(
  z.object({
    start: z.number().min(0),
    end: z.number().min(0),
    midi: z.number().min(0).max(127),
    newStart: z.number().optional(),
    newEnd: z.number().optional(),
  }),
);

/** `plundra tune`: pitch and timing of a single line corrected; what needs no correction stays as it is. */
export async function tune(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, {
    out: { type: 'string' },
    kind: { type: 'string', default: 'auto' },
    key: { type: 'string' },
    pitch: { type: 'string', default: '100' },
    vibrato: { type: 'string', default: '100' },
    wander: { type: 'string', default: '0' },
    grid: { type: 'string' },
    bpm: { type: 'string' },
    'first-beat': { type: 'string', default: '0' },
    pull: { type: 'string', default: '100' },
    swing: { type: 'string', default: '0' },
    targets: { type: 'string' },
  });
  const path = single(positionals, 'recording');
  if (!values.out) throw new UsageError('--out OUT.wav is missing.');
  const key = parseKey(values.key);
  const share = (name: 'pitch' | 'vibrato' | 'wander' | 'pull' | 'swing') =>
    parseNumber(name, values[name], 0, name === 'vibrato' || name === 'wander' ? 200 : 100) / 100;
  const shape = { vibratoKept: share('vibrato'), driftKept: share('wander') };
  const centre = share('pitch');
  const pull = values.grid === undefined ? undefined : gridOf(values, share('pull'), share('swing'));
  const recording = await openRecording(path, parseKind(values.kind));
  let notes = values.targets
    ? await targetNotes(values.targets, recording)
    : recording.notes.map((note) => ({
        ...note,
        toMidi:
          note.midi + centre * ((key ? nearestInScale(note.midi, key) : Math.round(note.midi)) - note.midi),
      }));
  notes = notes.map((note) => ({ ...note, ...shape }));
  if (pull) notes = pull(notes);
  await writeCorrected(recording, notes, values.out);
}

function gridOf(
  values: { grid?: string; bpm?: string; 'first-beat': string },
  pull: number,
  swing: number,
): (notes: CorrectedNote[]) => CorrectedNote[] {
  const grid = GRID_VALUES.find((each) => each === values.grid);
  if (!grid) throw new UsageError(`--grid must be one of ${GRID_VALUES.join(', ')}, not “${values.grid}”.`);
  if (values.bpm === undefined) throw new UsageError('--grid also needs the tempo: --bpm N.');
  const bpm = parseNumber('bpm', values.bpm, 10, 400);
  const firstBeat = parseNumber('first-beat', values['first-beat'], -1000, 100_000);
  const time = createTimeMap({ ...createSong('tune', 'Tune'), tempoMap: [{ startTicks: 0, bpm }] });
  return (notes) => {
    const { pulled } = pullToGrid(
      notes.map((note) => note.toStartSeconds - firstBeat),
      { grid, pull, swing, leaveAloneBeyondSeconds: null },
      time,
    );
    return notes.map((note, i) => {
      const by = pulled[i].toSeconds - pulled[i].fromSeconds;
      return { ...note, toStartSeconds: note.toStartSeconds + by, toEndSeconds: note.toEndSeconds + by };
    });
  };
}

/** Notes from a file; their played pitch is measured. */
async function targetNotes(path: string, recording: OpenRecording): Promise<CorrectedNote[]> {
  let json: unknown;
  try {
    json = JSON.parse(await readFile(path, 'utf8'));
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
    throw new UsageError(
      `${path} is not JSON. It should be a list like [{"start":0.5,"end":1.2,"midi":60}].`,
    );
  }
  const parsed = targetsSchema.safeParse(json);
  if (!parsed.success)
    throw new UsageError(
      `${path} does not list notes as [{"start":0.5,"end":1.2,"midi":60,"newStart":…,"newEnd":…}].`,
    );
  return parsed.data
    .filter(({ start, end }) => end > start)
    .sort((a, b) => a.start - b.start)
    .map(({ start, end, midi, newStart = start, newEnd = newStart + end - start }, i) => ({
      ...unchangedNote(String(i), {
        startSeconds: start,
        endSeconds: end,
        midi: pitchOf(recording, start, end) ?? midi,
        confidence: 1,
      }),
      toMidi: midi,
      toStartSeconds: newStart,
      toEndSeconds: newEnd,
    }));
}
