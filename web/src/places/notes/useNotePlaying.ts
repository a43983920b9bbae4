/** Playing notes by hand: what sounds, with the sustain pedal, and passes that are recorded into a part. */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { App } from 'antd';
import {
  notesOfTake,
  planPlayIn,
  pressesFrom,
  soundOfKey,
  type KeySounds,
  type Press,
  type TakePull,
} from '@plundra/core/arranging';
import { changeAt, chordEntriesOf, EditError, keyAt, type NotePart } from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';

export interface PlayInSettings {
  sounds: KeySounds;
  pull: TakePull;
  /** Fixed: every note as strong as the next. */
  fixedVelocity: boolean;
  replaces: boolean;
}

interface Held {
  midi: number;
  velocity: number;
  startSeconds: number;
  /** Its key was let go; the pedal holds it. */
  byPedal: boolean;
  letGo(): void;
}

export interface NotePlaying {
  /** What sounds, by the name it was pressed under. */
  held: ReadonlyMap<string, number>;
  down(midi: number, id: string, velocity?: number): void;
  up(id: string): void;
  pedal(down: boolean): void;
  recording: boolean;
  /** Notes of this pass so far. */
  count: number;
  record(): void;
}

const VELOCITY = 90;
const NOTHING: ReadonlyMap<string, number> = new Map();

export function useNotePlaying(part: NotePart, settings: PlayInSettings): NotePlaying {
  const { song, time, engine, apply } = useSong();
  const { message } = App.useApp();
  const program = part.kind === 'drums' ? ('drums' as const) : part.program;
  const playing = useRef(new Map<string, Held>());
  const pedalDown = useRef(false);
  const pass = useRef<{ fromSeconds: number; presses: Press[] } | null>(null);
  const [held, setHeld] = useState(NOTHING);
  const [recording, setRecording] = useState(false);
  const [count, setCount] = useState(0);
  const latest = useRef({ song, time, part, settings });
  useEffect(() => {
    latest.current = { song, time, part, settings };
  });

  const show = useCallback(
    () => setHeld(new Map([...playing.current].map(([id, { midi }]) => [id, midi]))),
    [],
  );
  const end = useCallback(
    (id: string) => {
      const note = playing.current.get(id);
      if (!note) return;
      playing.current.delete(id);
      note.letGo();
      show();
      if (!pass.current) return;
      const { loop } = engine.getState();
      const now = engine.playedSeconds();
      // Over the end of the loop it lasted to it.
      const endSeconds = now < note.startSeconds ? (loop?.endSeconds ?? note.startSeconds) : now;
      const { midi, velocity, startSeconds } = note;
      pass.current.presses.push({ startSeconds, endSeconds, midis: [midi], velocity, chord: undefined });
      setCount(pass.current.presses.length);
    },
    [engine, show],
  );
  const down = useCallback(
    (key: number, id: string, velocity = VELOCITY) => {
      if (playing.current.has(id)) end(id);
      const { song: now, time: map, settings: set } = latest.current;
      const ticks = Math.max(0, map.ticksAt(Math.max(0, engine.playedSeconds())));
      const chord = changeAt(chordEntriesOf(now), ticks)?.chord ?? null;
      const midi = soundOfKey(key, set.sounds, keyAt(now, ticks), chord);
      const strength = set.fixedVelocity ? VELOCITY : velocity;
      playing.current.set(id, {
        midi,
        velocity: strength,
        startSeconds: engine.playedSeconds(),
        byPedal: false,
        letGo: engine.live.hold([midi], strength, program),
      });
      show();
    },
    [engine, program, end, show],
  );
  const up = useCallback(
    (id: string) => {
      const note = playing.current.get(id);
      if (note && pedalDown.current) note.byPedal = true;
      else end(id);
    },
    [end],
  );
  const pedal = useCallback(
    (isDown: boolean) => {
      pedalDown.current = isDown;
      if (isDown) return;
      for (const [id, note] of [...playing.current]) if (note.byPedal) end(id);
    },
    [end],
  );
  const letAllGo = useCallback(() => {
    pedalDown.current = false;
    [...playing.current.keys()].forEach(end);
  }, [end]);
  // Keys that are let go elsewhere would sound for ever.
  useEffect(() => {
    window.addEventListener('blur', letAllGo);
    return () => {
      window.removeEventListener('blur', letAllGo);
      letAllGo();
    };
  }, [letAllGo]);

  const keep = useCallback(
    ({ fromSeconds, presses }: { fromSeconds: number; presses: Press[] }, toSeconds: number) => {
      const { song: now, time: map, part: into, settings: set } = latest.current;
      const played = pressesFrom(presses, fromSeconds, map);
      if (played.length === 0) return;
      const notes = notesOfTake(played, set.pull, map, () => crypto.randomUUID());
      const ticks = (seconds: number) => Math.round(map.ticksAt(seconds));
      const stretch = set.replaces
        ? { fromTicks: ticks(fromSeconds), toTicks: Math.max(ticks(fromSeconds) + 1, ticks(toSeconds)) }
        : undefined;
      try {
        const edit = planPlayIn(now, into, notes, stretch, map, () => crypto.randomUUID());
        const what = `${notes.length} ${notes.length === 1 ? 'note' : 'notes'}`;
        if (apply(`Play ${what} into ${into.name}`.slice(0, 200), edit))
          void message.success(`${what} kept.`, 2);
      } catch (error) {
        if (!(error instanceof EditError)) throw error;
        void message.warning(error.message, 6);
      }
    },
    [apply, message],
  );
  // However the song stops, the pass ends with it.
  useEffect(
    () =>
      engine.subscribe(() => {
        const state = engine.getState();
        if (!pass.current || state.playing || state.loading) return;
        letAllGo();
        const done = pass.current;
        pass.current = null;
        setRecording(false);
        // Round a loop all of it was played over.
        const { loop, loopOn } = state;
        keep(done, loopOn && loop ? loop.endSeconds : engine.positionSeconds());
      }),
    [engine, letAllGo, keep],
  );
  // Who leaves the part while recording keeps what was played.
  useEffect(
    () => () => {
      const done = pass.current;
      pass.current = null;
      if (done) keep(done, engine.positionSeconds());
    },
    [engine, keep],
  );
  const record = useCallback(() => {
    if (pass.current) return engine.stop();
    engine.stop();
    setCount(0);
    const { loopOn } = engine.getState();
    void engine.play({ record: { loop: loopOn } }).then((run) => {
      if (!run) return;
      pass.current = { fromSeconds: run.songSeconds, presses: [] };
      setRecording(true);
    });
  }, [engine]);
  return useMemo(
    () => ({ held, down, up, pedal, recording, count, record }),
    [held, down, up, pedal, recording, count, record],
  );
}
