import type { MelodyKind } from '@plundra/core/reading';
import { readMelodyFile } from '@plundra/server';
import { UsageError } from './usage.ts';

const KINDS: readonly MelodyKind[] = ['voice', 'guitar', 'bass', 'auto'];
/** Progress is shown for reads that take longer than this. */
const QUIET_MS = 2000;

export function parseKind(text: string): MelodyKind {
  const kind = KINDS.find((each) => each === text);
  if (!kind) throw new UsageError(`--kind must be one of ${KINDS.join(', ')}, not “${text}”.`);
  return kind;
}

/** Reads a file; long input tells its progress on standard error. */
export async function readWithProgress(path: string, kind: MelodyKind) {
  const started = Date.now();
  let told = -1;
  const result = await readMelodyFile(path, kind, (share) => {
    const percent = Math.floor(share * 10) * 10;
    if (Date.now() - started < QUIET_MS || percent === told) return;
    told = percent;
    process.stderr.write(`reading ${percent} %\n`);
  });
  return result;
}
