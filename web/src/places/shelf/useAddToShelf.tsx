/** Puts files on the shelf: sound is listened to there, each part of a MIDI file becomes a phrase. */
import { useCallback } from 'react';
import { App, Button, Progress } from 'antd';
import { useQueryClient } from '@tanstack/react-query';
import type { AddToShelf } from '@plundra/contract';
import { isMidiName, readMidi, withoutMidiEnding } from '@plundra/core/formats';
import { keptItemOf, type KeptItem } from '@plundra/core/shelf';
import { createSong } from '@plundra/core/song';
import { api } from '../../api/client.ts';

const SOUND_NAME = /\.(wav|flac|mp3|ogg|oga)$/i;

export function useAddToShelf(): (files: readonly File[]) => void {
  const { notification, message } = App.useApp();
  const queries = useQueryClient();
  return useCallback(
    (files) => {
      // A folder holds more than music.
      const wanted = files.filter(({ name }) => SOUND_NAME.test(name) || isMidiName(name));
      const key = `shelf-${crypto.randomUUID()}`;
      const stop = new AbortController();
      const show = (done: number, name: string) =>
        notification.open({
          key,
          title:
            wanted.length > 1 ? `Putting ${wanted.length} files on the shelf` : 'Putting it on the shelf',
          description: (
            <>
              <Progress percent={Math.round((100 * done) / wanted.length)} size="small" status="active" />
              <span className="quiet">{name}</span>
            </>
          ),
          actions: (
            <Button size="small" onClick={() => stop.abort()}>
              Stop
            </Button>
          ),
          duration: 0,
        });
      const run = async () => {
        if (wanted.length === 0) {
          void message.warning(
            'Nothing here can lie on the shelf: it takes WAV, FLAC, MP3, OGG and MIDI files.',
            7,
          );
          return;
        }
        const problems: string[] = [];
        for (const [i, file] of wanted.entries()) {
          if (stop.signal.aborted) break;
          show(i, file.name);
          try {
            await add(file, stop.signal, (share) => show(i + share, file.name));
          } catch (error) {
            if (stop.signal.aborted) break;
            const why = error instanceof Error ? error.message : 'Something unexpected went wrong.';
            problems.push(`${file.name}: ${why}`);
          }
        }
        notification.destroy(key);
        void queries.invalidateQueries({ queryKey: ['shelf'] });
        if (problems.length > 0)
          notification.error({
            title: `${problems.length} of ${wanted.length} ${wanted.length === 1 ? 'file' : 'files'} did not get on the shelf`,
            description: (
              <div style={{ maxHeight: 220, overflowY: 'auto' }}>
                {problems.map((problem) => (
                  <p key={problem}>{problem}</p>
                ))}
              </div>
            ),
            duration: 0,
          });
      };
      void run();
    },
    [notification, message, queries],
  );
}

async function add(file: File, signal: AbortSignal, onProgress: (share: number) => void): Promise<void> {
  if (isMidiName(file.name)) {
    for (const item of phrasesOf(new Uint8Array(await file.arrayBuffer()), file.name))
      await api.addToShelf(asAdded(item));
    return;
  }
  const recording = await api.uploadRecording(file, onProgress, signal);
  await api.addToShelf({ recordingHash: recording.hash, fileName: file.name });
}

/** A phrase for each part that has notes. */
function phrasesOf(bytes: Uint8Array, fileName: string): KeptItem[] {
  const createId = () => crypto.randomUUID();
  const { title, changed: _, ...contents } = readMidi(bytes, createId);
  const name = title ?? withoutMidiEnding(fileName);
  const song = { ...createSong('file', name.slice(0, 200) || 'MIDI file'), ...contents };
  const kept = song.parts.flatMap((part) =>
    part.passages.flatMap((passage) => keptItemOf(song, { part, passage }) ?? []),
  );
  return kept.map((item) => ({
    ...item,
    name: kept.length === 1 ? (name || item.name).slice(0, 120) : item.name,
  }));
}

export const asAdded = ({ notes, ...item }: KeptItem): AddToShelf => ({ ...item, ...(notes && { notes }) });
