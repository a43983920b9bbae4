/** `plundra import`: a new song from recordings, MIDI files and scores. */
import { randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { isMidiName, isScoreName, readMidi } from '@plundra/core/formats';
import { readScore } from '@plundra/core/notation';
import {
  markOf,
  wholeRecording,
  countNotesOf,
  createSong,
  MAX_NOTES_IN_SONG,
  MAX_PARTS,
  type Part,
  type Song,
} from '@plundra/core/song';
import { inspectFile } from '@plundra/server';
import { withDataFolder } from './dataFolder.ts';
import { parseCommand, UsageError } from './usage.ts';

/** `plundra import`: one new song from the given recordings, MIDI files and scores; prints its id. */
export async function importFiles(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, { title: { type: 'string' } });
  if (positionals.length === 0) throw new UsageError('Name at least one file to import.');
  const title = values.title ?? basename(positionals[0]).replace(/\.[^.]+$/, '');
  await withDataFolder(async ({ songs, recordings }) => {
    let song: Song = createSong(randomUUID(), title);
    for (const path of positionals) {
      if (isMidiName(path) || isScoreName(path)) {
        const room = {
          parts: MAX_PARTS - song.parts.length,
          notes: MAX_NOTES_IN_SONG - countNotesOf(song),
        };
        const bytes = new Uint8Array(await readFile(path));
        const contents = isMidiName(path)
          ? { chords: [], sections: [], ...readMidi(bytes, randomUUID, room) }
          : readScore(bytes, randomUUID, room);
        for (const change of contents.changed) console.error(`${basename(path)}: ${change}`);
        const first = song.parts.length === 0;
        song = {
          ...song,
          ...(first && { tempoMap: contents.tempoMap, metreMap: contents.metreMap, key: contents.key }),
          ...(first && contents.keyChanges.length > 0 && { keyChanges: contents.keyChanges }),
          ...(first && contents.chords.length > 0 && { changes: contents.chords }),
          ...(first && contents.sections.length > 0 && { sections: contents.sections }),
          parts: [...song.parts, ...contents.parts],
        };
        continue;
      }
      const recording = await recordings.add(createReadStream(path), basename(path), inspectFile);
      for (const warning of recording.warnings) console.error(`${basename(path)}: ${warning}`);
      const name = basename(path).replace(/\.[^.]+$/, '');
      const part: Part = {
        kind: 'recording',
        id: randomUUID(),
        name,
        mark: markOf(name),
        colour: song.parts.length % 10,
        levelDb: 0,
        pan: 0,
        mute: false,
        solo: false,
        material: 'other',
        ...wholeRecording(recording, 0, randomUUID),
      };
      song = { ...song, parts: [...song.parts, part] };
    }
    await songs.insert(song);
    console.log(song.id);
  });
}
