/** Playing notes by hand: what sounds, with the sustain pedal, and passes that are recorded into a part. */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { App } from 'antd';
import {
  howPlayed,
  notesOfTake,
  planPlayIn,
  pressesFrom,
  soundOfKey,
  type HowPlayed,
  type KeySounds,
  type Press,
  type TakePull,
} from '@plundra/core/arranging';
import {
  changeAt,
  chordEntriesOf,
  EditError,
  keyAt,
  markOf,
  type Edit,
  type Note,
  type NotePart,
  type Song,
} from '@plundra/core/song';
import { instrumentName, type Sound } from '../../audio/instruments.ts';
import { freeName, notePartOf } from '../newParts.ts';
import { useSong } from '../SongContext.tsx';

export interface PlayInSettings {
  sounds: KeySounds;
  pull: TakePull;
  /** Fixed: every note as strong as the next. */
  fixedVelocity: boolean;
  replaces: boolean;
  /** What comes from the keyboard comes later than it was played by so much. */
  delaySeconds: number;
}

interface Held {
  midi: number;
  velocity: number;
  startSeconds: number;
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

/** What is being recorded. Where it goes is settled when it begins, whatever is chosen meanwhile. */
interface Pass {
  fromSeconds: number;
  presses: Press[];
  /** Undefined: a new part. */
  intoId: string | undefined;
  sound: Sound;
}

/** The grid that a pass is compared with where it is not pulled to one. */
const COMPARED_WITH = '1/16';

const VELOCITY = 90;
const createId = () => crypto.randomUUID();
const NOTHING: ReadonlyMap<string, number> = new Map();

/**
 * @param part what is played goes into it; null: into a new one
 * @param program what it sounds like
 */
export function useNotePlaying(part: NotePart | null, program: Sound, settings: PlayInSettings): NotePlaying {
  const { song, time, engine, apply } = useSong();
  const { message } = App.useApp();
  const playing = useRef(new Map<string, Held>());
  const pedalDown = useRef(false);
  const pass = useRef<Pass | null>(null);
  const [held, setHeld] = useState(NOTHING);
  const [recording, setRecording] = useState(false);
  const [count, setCount] = useState(0);
  const [how, setHow] = useState<HowPlayed | null>(null);
  const wheel = useRef(0);
  const latest = useRef({ song, time, part, program, settings });
  useEffect(() => {
    latest.current = { song, time, part, program, settings };
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
      const { loop } = engine.getState();
      const now = playedSeconds();
      // Over the end of the loop it lasted to it.
      const endSeconds = now < note.startSeconds ? (loop?.endSeconds ?? note.startSeconds) : now;
      const { midi, velocity, startSeconds, bends } = note;
      const bent = bends.length > 0 && { bends };
      pass.current.presses.push({
        startSeconds,
        endSeconds,
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
    ({ fromSeconds, presses, intoId, sound }: Pass, toSeconds: number) => {
      const { song: now, time: map, settings: set } = latest.current;
      const played = pressesFrom(presses, fromSeconds, map);
      if (played.length === 0) return;
      setHow(howPlayed(played, set.pull === 'off' ? COMPARED_WITH : set.pull, map) ?? null);
      const notes = notesOfTake(played, set.pull, map, createId);
      const ticks = (seconds: number) => Math.round(map.ticksAt(seconds));
      const stretch = set.replaces
        ? { fromTicks: ticks(fromSeconds), toTicks: Math.max(ticks(fromSeconds) + 1, ticks(toSeconds)) }
        : undefined;
      try {
        const what = `${notes.length} ${notes.length === 1 ? 'note' : 'notes'}`;
        const into = now.parts.find(
          (each): each is NotePart => each.id === intoId && each.kind !== 'recording',
        );
        const made = into ?? partOfPlayed(now, sound, notes);
        const edit: Edit = into
          ? planPlayIn(now, into, notes, stretch, map, createId)
          : { type: 'part.add', part: made, index: now.parts.length };
        if (apply(`Play ${what} into ${made.name}`.slice(0, 200), edit))
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
    void engine.play({ record: { loop: loopOn, notes: true } }).then((run) => {
      if (!run) return;
      const { part: into, program: sound } = latest.current;
      pass.current = { fromSeconds: run.songSeconds, presses: [], intoId: into?.id, sound };
      setRecording(true);
    });
  }, [engine]);
  return useMemo(
    () => ({ held, down, up, pedal, bend, recording, count, how, record }),
    [held, down, up, pedal, bend, recording, count, how, record],
  );
}

/** A new part with what was played. */
function partOfPlayed(song: Song, sound: Sound, notes: readonly Note[]): NotePart {
  if (sound !== 'drums') return notePartOf(song, 'Played', sound, notes, createId);
  const { program: _, ...part } = notePartOf(song, 'Played', 0, notes, createId);
  const kit = instrumentName(sound);
  return { ...part, kind: 'drums', name: freeName(song, `Played · ${kit}`), mark: markOf(kit) };
}
