import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { readMelodyFile } from './readings/readFile.ts';
import { inspectFile } from './recordings/inspect.ts';
import { temporaryFolder } from './test/helpers.ts';

// Two seconds, A3 then E4, made by the FLAC, LAME and Vorbis encoders of Debian from one WAV file.
const fixture = (name: string) => new URL(`./test/fixtures/${name}`, import.meta.url).pathname;
const folder = temporaryFolder();
afterAll(() => folder.remove());

describe.each(['flac', 'mp3', 'ogg'])('%s files', (format) => {
  it('are decoded to their length and read', async () => {
    const { info } = await inspectFile(fixture(`tone.${format}`));
    // The MP3 decoder gives mono files out on two equal channels.
    const channels = format === 'mp3' ? 2 : 1;
    expect(info).toMatchObject({ format, sampleRateHz: 22050, channels, warnings: [] });
    expect(Math.abs(info.durationSeconds - 2)).toBeLessThan(0.06);
    const { notes } = await readMelodyFile(fixture(`tone.${format}`), 'auto');
    expect(notes.map((note) => Math.round(note.midi))).toEqual([57, 64]);
    expect(Math.abs(notes[1].startSeconds - 1)).toBeLessThan(0.05);
  });

  it('that break off are read as far as they go', async () => {
    const bytes = readFileSync(fixture(`tone.${format}`));
    const path = join(folder.path, `short.${format}`);
    writeFileSync(path, bytes.subarray(0, Math.floor(bytes.length * 0.7)));
    const { info } = await inspectFile(path);
    expect(info.durationSeconds).toBeGreaterThan(0.5);
    expect(info.durationSeconds).toBeLessThan(1.9);
    if (format === 'flac') expect(info.warnings[0]).toMatch(/of 2\.0 s could be read/);
  });
});
