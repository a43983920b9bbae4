/** Playing notes by hand: what sounds, with the sustain pedal, and passes that are recorded into a part. */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { App } from 'antd';
import { inRound, soundOfKey, type HowPlayed, type KeySounds, type TakePull } from '@plundra/core/arranging';
import {
  changeAt,
  chordEntriesOf,
  EditError,
  keyAt,
  MAX_TICKS,
  planSetAside,
  type NotePart,
} from '@plundra/core/song';
import type { Sound } from '../../audio/instruments.ts';
import { useSong } from '../SongContext.tsx';
import { keptPass, type Pass, type PlayInDoes } from './keepPass.ts';

export interface PlayInSettings {
  sounds: KeySounds;
  pull: TakePull;
  /** Fixed: every note as strong as the next. */
  fixedVelocity: boolean;
  does: PlayInDoes;
  /** What comes from the keyboard comes later than it was played by so much. */
  delaySeconds: number;
}

interface Held {
  midi: number;
  velocity: number;
  startSeconds: number;
  startRound: number;
  bends: { seconds: number; semitones: number }[];
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
  bend(semitones: number): void;
  recording: boolean;
  /** Notes of this pass so far. */
  count: number;
  /** How the last pass was played; null: nothing can be said. */
  how: HowPlayed | null;
  record(): void;
}

const VELOCITY = 90;
const createId = () => crypto.randomUUID();
const NOTHING: ReadonlyMap<string, number> = new Map();

/**
 * @param part what is played goes into it; null: into a new one
 * @param program what it sounds like
 * @param onTakes takes were put into a part
 */
export function useNotePlaying(
  part: NotePart | null,
  program: Sound,
  settings: PlayInSettings,
  onTakes: ((partId: string) => void) | undefined,
): NotePlaying {
  const { song, time, engine, apply, setTried } = useSong();
  const { message } = App.useApp();
  const playing = useRef(new Map<string, Held>());
  const pedalDown = useRef(false);
  const pass = useRef<Pass | null>(null);
  const [held, setHeld] = useState(NOTHING);
  const [recording, setRecording] = useState(false);
  const [count, setCount] = useState(0);
  const [how, setHow] = useState<HowPlayed | null>(null);
  const wheel = useRef(0);
  const latest = useRef({ song, time, part, program, settings, onTakes });
  useEffect(() => {
    latest.current = { song, time, part, program, settings, onTakes };
  });

  const playedSeconds = useCallback(
    () => engine.playedSeconds() - latest.current.settings.delaySeconds,
    [engine],
  );
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
      const { midi, velocity, startSeconds, startRound, bends } = note;
      const held = { startSeconds, startRound, endSeconds: playedSeconds(), endRound: engine.roundsPlayed() };
      const bent = bends.length > 0 && { bends };
      pass.current.presses.push({
        ...inRound(held, pass.current.loop),
        midis: [midi],
        velocity,
        chord: undefined,
        ...bent,
      });
      setCount(pass.current.presses.length);
    },
    [engine, playedSeconds, show],
  );
  const down = useCallback(
    (key: number, id: string, velocity = VELOCITY) => {
      if (playing.current.has(id)) end(id);
      const { song: now, time: map, program: sound, settings: set } = latest.current;
      const startSeconds = playedSeconds();
      const ticks = Math.max(0, map.ticksAt(Math.max(0, startSeconds)));
      const chord = changeAt(chordEntriesOf(now), ticks)?.chord ?? null;
      // A drum has no pitch that could fit.
      const sounds = sound === 'drums' ? 'all' : set.sounds;
      const midi = soundOfKey(key, sounds, keyAt(now, ticks), chord);
      const strength = set.fixedVelocity ? VELOCITY : velocity;
      playing.current.set(id, {
        midi,
        velocity: strength,
        startSeconds,
        startRound: engine.roundsPlayed(),
        bends: wheel.current === 0 ? [] : [{ seconds: startSeconds, semitones: wheel.current }],
        byPedal: false,
        letGo: engine.live.hold([midi], strength, sound),
      });
      show();
    },
    [engine, playedSeconds, end, show],
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
  const bend = useCallback(
    (semitones: number) => {
      wheel.current = semitones;
      engine.live.bend(semitones, latest.current.program);
      const seconds = playedSeconds();
      for (const note of playing.current.values()) note.bends.push({ seconds, semitones });
    },
    [engine, playedSeconds],
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
    (done: Pass, stoppedSeconds: number) => {
      const { song: now, time: map, settings: set, onTakes: showTakes } = latest.current;
      try {
        const kept = keptPass(now, map, done, set, stoppedSeconds, createId);
        if (!kept) return;
        setHow(kept.how ?? null);
        if (!apply(kept.label.slice(0, 200), kept.edit)) return;
        void message.success(kept.says, 3);
        if (kept.takesOf) showTakes?.(kept.takesOf);
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
        setTried(null);
        keep(done, engine.positionSeconds());
      }),
    [engine, letAllGo, keep, setTried],
  );
  // Who leaves the part while recording keeps what was played.
  useEffect(
    () => () => {
      const done = pass.current;
      pass.current = null;
      if (!done) return;
      setTried(null);
      keep(done, engine.positionSeconds());
    },
    [engine, keep, setTried],
  );
  const record = useCallback(() => {
    if (pass.current) return engine.stop();
    engine.stop();
    setCount(0);
    const { loop, loopOn } = engine.getState();
    const { song: before, time: map, part: beside, settings: set } = latest.current;
    if (set.does === 'takes' && beside) {
      // A take is played without what it will stand beside.
      const ticksAt = (seconds: number) => Math.max(0, Math.round(map.ticksAt(seconds)));
      const from = ticksAt(loopOn && loop ? loop.startSeconds : engine.positionSeconds());
      const to = loopOn && loop ? ticksAt(loop.endSeconds) : MAX_TICKS;
      setTried(planSetAside(before, beside.id, from, to, createId) ?? null);
    }
    void engine.play({ record: { loop: loopOn, notes: true } }).then((run) => {
      if (!run) return setTried(null);
      const { part: into, program: sound } = latest.current;
      const goesRound = loopOn ? loop : null;
      pass.current = { fromSeconds: run.songSeconds, loop: goesRound, presses: [], intoId: into?.id, sound };
      setRecording(true);
    });
  }, [engine, setTried]);
  return useMemo(
    () => ({ held, down, up, pedal, bend, recording, count, how, record }),
    [held, down, up, pedal, bend, recording, count, how, record],
  );
}
