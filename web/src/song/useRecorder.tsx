/** Recording a take: count-in, capture while the song plays, and a new part where it began. */
import { useCallback, useEffect, useRef, useState } from 'react';
import { App, Button } from 'antd';
import { encodeWav } from '@plundra/core/formats';
import type { Edit, Song, TimeMap } from '@plundra/core/song';
import { api } from '../api/client.ts';
import type { Engine } from '../audio/engine.ts';
import { MicrophoneError, openMicrophone, type Microphone } from '../audio/microphone.ts';
import { saveFile } from '../api/saveFile.ts';
import { recordingPart } from './newParts.ts';

export type RecorderState = 'off' | 'opening' | 'recording' | 'saving';

export interface Recorder {
  state: RecorderState;
  /** Level of the input while recording, 0–1. */
  level(): number;
  /** Starts recording at the playhead, or ends it and keeps the take. */
  toggle(): void;
}

interface OpenTake {
  microphone: Microphone;
  startTicks: number;
  contextSeconds: number;
}

/** Takes shorter than this were slips of the hand. */
const SHORTEST_SECONDS = 0.2;

interface Latest {
  song: Song;
  time: TimeMap;
  apply: (label: string, edit: Edit) => boolean;
}

type Tools = Pick<ReturnType<typeof App.useApp>, 'message' | 'notification'> & { latest(): Latest };

/** Stores a take and makes a part of it; when that fails the take can be stored again or saved as a file. */
async function keepTake(file: File, startTicks: number, tools: Tools): Promise<void> {
  const { message, notification, latest } = tools;
  const key = `take-${file.name}`;
  try {
    const recording = await api.uploadRecording(file, () => undefined, new AbortController().signal);
    const { song, apply } = latest();
    const part = recordingPart(song, recording, file.name, startTicks, () => crypto.randomUUID());
    apply(`Record ${part.name}`, { type: 'part.add', part, index: song.parts.length });
    void message.success(`${part.name} is kept as a part of the song.`, 3);
  } catch (error) {
    const again = () => {
      notification.destroy(key);
      void keepTake(file, startTicks, tools);
    };
    notification.error({
      key,
      title: 'The take could not be stored',
      description: `${error instanceof Error ? error.message : 'Something unexpected went wrong.'} The take is still here: store it again, or save it as a file and import it later.`,
      duration: 0,
      actions: (
        <>
          <Button
            size="small"
            onClick={() =>
              void file.arrayBuffer().then((bytes) => saveFile(file.name, file.type, new Uint8Array(bytes)))
            }
          >
            Save as a file
          </Button>{' '}
          <Button size="small" type="primary" onClick={again}>
            Store again
          </Button>
        </>
      ),
    });
  }
}

export function useRecorder(
  song: Song,
  time: TimeMap,
  engine: Engine,
  apply: (label: string, edit: Edit) => boolean,
): Recorder {
  const { notification, message } = App.useApp();
  const [state, setState] = useState<RecorderState>('off');
  const take = useRef<OpenTake | undefined>(undefined);
  const latest = useRef<Latest>({ song, time, apply });
  useEffect(() => {
    latest.current = { song, time, apply };
  }, [song, time, apply]);

  const finish = useCallback(async () => {
    const open = take.current;
    if (!open) return;
    take.current = undefined;
    const samples = open.microphone.finish(open.contextSeconds);
    const rate = engine.sampleRateHz();
    if (samples.length < SHORTEST_SECONDS * rate) {
      setState('off');
      return;
    }
    setState('saving');
    const number = 1 + latest.current.song.parts.filter((part) => /^Recording \d+$/.test(part.name)).length;
    const bytes = encodeWav([samples], rate, 'float');
    const file = new File([bytes.buffer as ArrayBuffer], `Recording ${number}.wav`, { type: 'audio/wav' });
    await keepTake(file, open.startTicks, { message, notification, latest: () => latest.current });
    setState('off');
  }, [engine, message, notification]);

  // Stopping the song by any means ends the take.
  useEffect(
    () =>
      engine.subscribe(() => {
        if (take.current && !engine.getState().playing) void finish();
      }),
    [engine, finish],
  );
  useEffect(() => {
    const guard = (event: BeforeUnloadEvent) => state !== 'off' && event.preventDefault();
    window.addEventListener('beforeunload', guard);
    return () => window.removeEventListener('beforeunload', guard);
  }, [state]);

  const begin = useCallback(async () => {
    engine.stop();
    setState('opening');
    try {
      const microphone = await openMicrophone(engine.ensureContext());
      const started = await engine.play({ record: true });
      if (!started) {
        microphone.finish(0);
        setState('off');
        return;
      }
      take.current = {
        microphone,
        startTicks: Math.round(latest.current.time.ticksAt(started.songSeconds)),
        contextSeconds: started.contextSeconds,
      };
      setState('recording');
    } catch (error) {
      setState('off');
      notification.error({
        title: 'Recording could not begin',
        description:
          error instanceof MicrophoneError
            ? error.message
            : 'The audio input could not be opened. Reload the page and try again.',
        duration: 0,
      });
    }
  }, [engine, notification]);

  return {
    state,
    level: () => take.current?.microphone.level() ?? 0,
    toggle: () => {
      if (state === 'recording') engine.stop();
      else if (state === 'off') void begin();
    },
  };
}
