import { parseKind, readWithProgress } from './readWithProgress.ts';
import { parseCommand, single } from './usage.ts';
import { writeJson } from './writeJson.ts';

/** `plundra melody`: contour and notes as JSON. */
export async function melody(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, {
    kind: { type: 'string', default: 'auto' },
    out: { type: 'string' },
  });
  const reading = await readWithProgress(single(positionals, 'recording'), parseKind(values.kind));
  const { hopSeconds, f0Hz, confidence } = reading.contour;
  await writeJson(values.out, {
    contour: { hopSeconds, f0Hz: Array.from(f0Hz, (hz) => Math.max(0, hz)), confidence },
    notes: reading.notes.map(({ startSeconds, endSeconds, midi, velocity, confidence: sure }) => ({
      start: startSeconds,
      end: endSeconds,
      midi,
      velocity,
      confidence: sure,
    })),
    tuningCents: reading.tuningCents,
    kind: reading.kind.kind,
  });
}
