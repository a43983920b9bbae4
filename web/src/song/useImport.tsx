import { useCallback, useEffect, useRef } from 'react';
import { App, Button, Progress } from 'antd';
import { isMidiName, isScoreName, MidiFormatError, readMidi } from '@plundra/core/formats';
import type { ScoreContents } from '@plundra/core/notation';
import {
  chordEntriesOf,
  countNotesOf,
  MAX_NOTES_IN_SONG,
  MAX_PARTS,
  type Edit,
  type SimpleEdit,
  type Song,
} from '@plundra/core/song';
import { api } from '../api/client.ts';
import { recordingPart } from './newParts.ts';

/** Files beyond this are asked about first: they take long and much disk. */
const LARGE_BYTES = 2 * 1024 ** 3;

/** Brings files into the open song: sound becomes recording parts, MIDI and scores become note parts. */
export function useImport(
  song: Song,
  apply: (label: string, edit: Edit) => boolean,
): (files: File[]) => void {
  const { notification, modal } = App.useApp();
  // Several files come one after the other; each must see the song with those before it.
  const latest = useRef(song);
  useEffect(() => {
    latest.current = song;
  }, [song]);

  const importSound = useCallback(
    async (file: File) => {
      const key = `import-${file.name}-${file.lastModified}`;
      const stop = new AbortController();
      const show = (share: number) =>
        notification.open({
          key,
          title: `Importing ${file.name}`,
          description: (
            <Progress
              percent={Math.round(share * 100)}
              size="small"
              status="active"
              format={(percent) => (percent === 100 ? 'Looking into it' : `${percent} %`)}
            />
          ),
          actions: (
            <Button size="small" onClick={() => stop.abort()}>
              Stop
            </Button>
          ),
          duration: 0,
        });
      show(0);
      const recording = await api.uploadRecording(file, show, stop.signal);
      const part = recordingPart(latest.current, recording, file.name, 0, () => crypto.randomUUID());
      apply(`Import ${part.name}`, { type: 'part.add', part, index: latest.current.parts.length });
      notification.destroy(key);
      for (const warning of recording.warnings)
        notification.warning({ title: file.name, description: warning, duration: 0 });
    },
    [apply, notification],
  );

  const importNotes = useCallback(
    async (file: File) => {
      const { parts } = latest.current;
      const room = {
        parts: MAX_PARTS - parts.length,
        notes: MAX_NOTES_IN_SONG - countNotesOf(latest.current),
      };
      const bytes = new Uint8Array(await file.arrayBuffer());
      const contents = isMidiName(file.name)
        ? { chords: [], sections: [], ...readMidi(bytes, createId, room) }
        : // Scores are rare: what reads them is fetched with the first.
          (await import('@plundra/core/notation')).readScore(bytes, createId, room);
      const adds: SimpleEdit[] = contents.parts.map((part, i) => ({
        type: 'part.add' as const,
        part,
        index: latest.current.parts.length + i,
      }));
      if (adds.length === 0)
        throw new MidiFormatError(
          room.parts <= 0
            ? `This song holds ${MAX_PARTS} parts, and no more fit in. Make a new song from the file on the songs page.`
            : 'This file holds no notes, so there is nothing to import.',
        );
      const frame = frameEdits(latest.current, contents);
      apply(`Import ${file.name}`.slice(0, 200), { type: 'batch', edits: [...frame, ...adds] });
      if (contents.changed.length > 0)
        notification.warning({ title: file.name, description: contents.changed.join(' '), duration: 0 });
    },
    [apply, notification],
  );

  return useCallback(
    (files: File[]) => {
      const run = async () => {
        for (const file of files) {
          try {
            if (file.size > LARGE_BYTES) {
              const go = await modal.confirm({
                title: `${file.name} is very large`,
                content: `It has ${(file.size / 1024 ** 3).toFixed(1)} GB and will be copied into the data folder.`,
                okText: 'Import it',
              });
              if (!go) continue;
            }
            if (isMidiName(file.name) || isScoreName(file.name)) await importNotes(file);
            else await importSound(file);
          } catch (error) {
            notification.destroy(`import-${file.name}-${file.lastModified}`);
            const description =
              error instanceof Error ? error.message : 'Something unexpected went wrong. Try again.';
            notification.error({ title: `${file.name} was not imported`, description, duration: 0 });
          }
        }
      };
      void run();
    },
    [importNotes, importSound, modal, notification],
  );
}

const createId = () => crypto.randomUUID();

/** An empty song takes the tempo, metre, key, chords and sections of the first file that says them. */
function frameEdits(
  song: Song,
  { tempoMap, metreMap, key, keyChanges, chords, sections }: ScoreContents,
): SimpleEdit[] {
  if (song.parts.length > 0 || chordEntriesOf(song).length > 0) return [];
  const patch = {
    tempoMap,
    metreMap,
    ...(key && { key }),
    ...(keyChanges.length > 0 && { keyChanges }),
    ...(sections.length > 0 && { sections }),
  };
  const set: SimpleEdit = { type: 'song.set', patch };
  return chords.length > 0 ? [set, { type: 'changes.put', remove: [], put: chords }] : [set];
}
