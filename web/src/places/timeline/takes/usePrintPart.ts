/** What is heard of a part as one new recording, in a part of its own; the old one is muted. */
import { useCallback, useEffect, useRef, useState } from 'react';
import { App } from 'antd';
import { useQueryClient } from '@tanstack/react-query';
import { passageEndSeconds, placedRecordings, type RecordingPart } from '@plundra/core/song';
import { api } from '../../../api/client.ts';
import { freeName, recordingPart } from '../../../song/newParts.ts';
import { makeSoundFile } from '../../../song/saveSound.ts';
import { useSong } from '../../../song/SongContext.tsx';

/** The seams and what rings after the last passage. */
const TAIL_SECONDS = 0.5;
const SAMPLE_RATE_HZ = 48_000;

export function usePrintPart(part: RecordingPart) {
  const { song, time, listen, apply } = useSong();
  const queries = useQueryClient();
  const { message } = App.useApp();
  const [printing, setPrinting] = useState<number | null>(null);
  const running = useRef<AbortController | null>(null);
  useEffect(() => () => running.current?.abort(), []);
  const print = useCallback(async () => {
    const placed = placedRecordings(part).filter(({ muted }) => !muted);
    if (placed.length === 0)
      return void message.info('Nothing of this part is heard, so there is nothing to print.', 4);
    const controller = new AbortController();
    running.current = controller;
    setPrinting(0);
    try {
      const startTicks = placed[0].startTicks;
      const toSeconds = Math.max(...placed.map((passage) => passageEndSeconds(passage, time))) + TAIL_SECONDS;
      // Its level and place stay with the part, so that printing twice does not turn it down twice.
      const plain = { ...part, levelDb: 0, pan: 0 };
      const file = await makeSoundFile(
        { ...song, parts: song.parts.map((each) => (each.id === part.id ? plain : each)), groups: undefined },
        listen,
        queries,
        {
          fromSeconds: time.secondsAt(startTicks),
          toSeconds,
          partIds: [part.id],
          sampleRateHz: SAMPLE_RATE_HZ,
          samples: 'float',
        },
        setPrinting,
        controller.signal,
      );
      if (controller.signal.aborted) return;
      const name = freeName(song, `${part.name} printed`);
      const bytes = new File([file.bytes as Uint8Array<ArrayBuffer>], `${name}.wav`, { type: 'audio/wav' });
      const recording = await api.uploadRecording(bytes, () => undefined, controller.signal);
      const made = {
        ...recordingPart(song, recording, `${name}.wav`, startTicks, () => crypto.randomUUID()),
        name,
        mark: part.mark,
        colour: part.colour,
        material: part.material,
        levelDb: part.levelDb,
        pan: part.pan,
        ...(part.group && { group: part.group }),
      };
      const index = song.parts.findIndex(({ id }) => id === part.id) + 1;
      apply(`Print ${part.name}`.slice(0, 200), {
        type: 'batch',
        edits: [
          { type: 'part.add', part: made, index },
          { type: 'part.set', partId: part.id, patch: { mute: true } },
        ],
      });
      void message.success(`${name} holds what was heard; ${part.name} is muted and still there.`, 5);
    } catch (error) {
      if (!controller.signal.aborted)
        void message.error(
          error instanceof Error ? error.message : 'The part could not be printed. Try again.',
          7,
        );
    } finally {
      if (running.current === controller) {
        running.current = null;
        setPrinting(null);
      }
    }
  }, [part, song, time, listen, queries, apply, message]);
  const stop = useCallback(() => {
    running.current?.abort();
    running.current = null;
    setPrinting(null);
  }, []);
  return { printing, print, stop };
}
