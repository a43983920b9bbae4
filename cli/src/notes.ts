import { parseSensitivity, readNotesWithProgress } from './readWithProgress.ts';
import { parseCommand, single } from './usage.ts';
import { writeJson } from './writeJson.ts';

/** `plundra notes`: all notes of a chordal recording as JSON. */
export async function notes(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, {
    sensitivity: { type: 'string', default: '0.5' },
    out: { type: 'string' },
  });
  const path = single(positionals, 'recording');
  const reading = await readNotesWithProgress(path, parseSensitivity(values.sensitivity));
  await writeJson(values.out, {
    notes: reading.notes.map(({ startSeconds, endSeconds, midi, velocity, confidence }) => ({
      start: startSeconds,
      end: endSeconds,
      midi,
      velocity,
      confidence,
    })),
    tuningCents: reading.tuningCents,
  });
}
