import { chordSymbol, tonicName } from '@plundra/core/theory';
import { parseNear, readChordsWithProgress } from './readWithProgress.ts';
import { parseCommand, single } from './usage.ts';
import { writeJson } from './writeJson.ts';

/** `plundra chords`: key and chords of a recording as JSON. */
export async function chords(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, { out: { type: 'string' }, near: { type: 'string' } });
  const reading = await readChordsWithProgress(single(positionals, 'recording'), parseNear(values.near));
  const [best] = reading.keys;
  await writeJson(values.out, {
    key: best ? { tonic: tonicName(best.key), mode: best.key.mode, confidence: best.confidence } : null,
    chords: reading.chords.map(({ startSeconds, endSeconds, chord, confidence, alternatives }) => ({
      start: startSeconds,
      end: endSeconds,
      label: chordSymbol(chord),
      confidence,
      alternatives: alternatives.map((other) => ({ label: chordSymbol(other.chord), score: other.score })),
    })),
    tuningCents: reading.tuningCents,
  });
}
