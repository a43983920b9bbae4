/** Playing chord keys and single notes: what sounds, its name, and takes of it. */
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Press } from '@plundra/core/arranging';
import { chordOfNotes, type Chord, type Key } from '@plundra/core/theory';
import { useSong } from '../../song/SongContext.tsx';

interface Held {
  midis: readonly number[];
  velocity: number;
  chord: Chord | undefined;
  startSeconds: number;
  letGo(): void;
}

export interface ChordPlaying {
  /** What is held, by the name that it was pressed under. */
  heldIds: ReadonlySet<string>;
  /** The last chord that was played. */
  name: Chord | undefined;
  down(id: string, midis: readonly number[], chord?: Chord, velocity?: number): void;
  up(id: string): void;
  take: { state: 'none' | 'recording' | 'done'; presses: readonly Press[] };
  /** Starts the song and a take from the playhead on. */
  record(): void;
  forget(): void;
}

const VELOCITY = 90;
const NOTHING_HELD: ReadonlySet<string> = new Set();

export function useChordPlaying(key: Key | null): ChordPlaying {
  const { engine, listen } = useSong();
  const { program } = listen.chords;
  const held = useRef(new Map<string, Held>());
  const presses = useRef<Press[]>([]);
  const recording = useRef(false);
  const [heldIds, setHeldIds] = useState(NOTHING_HELD);
  const [name, setName] = useState<Chord>();
  const [take, setTake] = useState<ChordPlaying['take']>({ state: 'none', presses: [] });

  const up = useCallback(
    (id: string) => {
      const press = held.current.get(id);
      if (!press) return;
      held.current.delete(id);
      press.letGo();
      setHeldIds(new Set(held.current.keys()));
      if (!recording.current) return;
      const { startSeconds, midis, velocity, chord } = press;
      const endSeconds = Math.max(startSeconds, engine.positionSeconds());
      presses.current.push({ startSeconds, endSeconds, midis, velocity, chord });
      setTake({ state: 'recording', presses: [...presses.current] });
    },
    [engine],
  );
  const down = useCallback(
    (id: string, midis: readonly number[], chord?: Chord, velocity = VELOCITY) => {
      if (held.current.has(id) || midis.length === 0) return;
      const all = [...held.current.values()].flatMap((press) => press.midis);
      const named = chord ?? chordOfNotes([...all, ...midis], key);
      held.current.set(id, {
        midis,
        velocity,
        chord: named,
        startSeconds: engine.positionSeconds(),
        letGo: engine.live.hold(midis, velocity, program),
      });
      setHeldIds(new Set(held.current.keys()));
      if (named) setName(named);
    },
    [engine, key, program],
  );
  const letAllGo = useCallback(() => [...held.current.keys()].forEach(up), [up]);

  // However the song stops, the take ends with it.
  useEffect(
    () =>
      engine.subscribe(() => {
        if (!recording.current || engine.getState().playing || engine.getState().loading) return;
        letAllGo();
        recording.current = false;
        setTake({ state: presses.current.length > 0 ? 'done' : 'none', presses: [...presses.current] });
      }),
    [engine, letAllGo],
  );
  // Keys that are let go elsewhere would sound for ever.
  useEffect(() => {
    window.addEventListener('blur', letAllGo);
    return () => {
      window.removeEventListener('blur', letAllGo);
      letAllGo();
    };
  }, [letAllGo]);

  const record = useCallback(() => {
    engine.stop();
    presses.current = [];
    setTake({ state: 'recording', presses: [] });
    void engine.play({ record: { loop: false, notes: true } }).then((started) => {
      recording.current = started !== undefined;
      if (!started) setTake({ state: 'none', presses: [] });
    });
  }, [engine]);
  const forget = useCallback(() => setTake({ state: 'none', presses: [] }), []);
  return { heldIds, name, down, up, take, record, forget };
}
