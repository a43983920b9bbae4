import { voiceInterval } from '@plundra/core/theory';
import { openRecording, parseKey, writeCorrected } from './correctedFile.ts';
import { parseKind } from './readWithProgress.ts';
import { parseCommand, single, UsageError } from './usage.ts';

/** "3rd-above", "6th-below", "octave-above". */
function parseInterval(text: string | undefined): number {
  const [, size, side] =
    /^(2nd|3rd|4th|5th|6th|7th|octave|8th|9th|10th)-(above|below)$/.exec(text ?? '') ?? [];
  if (!size) throw new UsageError(`--interval is written like 3rd-above or 6th-below, not “${text ?? ''}”.`);
  const steps = size === 'octave' ? 7 : Number.parseInt(size, 10) - 1;
  return side === 'above' ? steps : -steps;
}

/** `plundra harmony`: the recording as a second voice, a diatonic interval of the key away. */
export async function harmony(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, {
    out: { type: 'string' },
    kind: { type: 'string', default: 'auto' },
    interval: { type: 'string' },
    key: { type: 'string' },
  });
  const path = single(positionals, 'recording');
  if (!values.out) throw new UsageError('--out OUT.wav is missing.');
  const steps = parseInterval(values.interval);
  const key = parseKey(values.key);
  if (!key) throw new UsageError('--key is missing, e.g. --key G:major.');
  const recording = await openRecording(path, parseKind(values.kind));
  const notes = recording.notes.map((note) => ({
    ...note,
    toMidi: note.midi + voiceInterval(note.midi, steps, key),
  }));
  await writeCorrected(recording, notes, values.out);
}
