import { writeFile } from 'node:fs/promises';

/** One line of JSON into a file, or to standard output when none is named. */
export async function writeJson(path: string | undefined, value: unknown): Promise<void> {
  const json = `${JSON.stringify(value)}\n`;
  if (path) await writeFile(path, json);
  else process.stdout.write(json);
}
