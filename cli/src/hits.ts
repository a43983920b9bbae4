import { parseSensitivity, readHitsWithProgress } from './readWithProgress.ts';
import { parseCommand, single } from './usage.ts';
import { writeJson } from './writeJson.ts';

/** `plundra hits`: the hits of a drum recording by kind as JSON. */
export async function hits(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, {
    sensitivity: { type: 'string', default: '0.5' },
    out: { type: 'string' },
  });
  const path = single(positionals, 'recording');
  const reading = await readHitsWithProgress(path, parseSensitivity(values.sensitivity));
  const times = reading.hits.map(({ seconds }) => seconds);
  await writeJson(values.out, {
    hits: reading.hits.map(({ seconds, kind, velocity, confidence }) => ({
      time: seconds,
      kind,
      velocity,
      confidence,
    })),
    // Drums struck together are one onset.
    onsets: times.filter((time, i) => i === 0 || time - times[i - 1] > TOGETHER_SECONDS),
  });
}

const TOGETHER_SECONDS = 0.02;
