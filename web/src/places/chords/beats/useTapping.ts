/** Tapping beats while the recording plays: a key for each; they are taken when it stops. */
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Seconds } from '@plundra/core/signal';
import type { Engine } from '../../../audio/engine.ts';

export interface Tapping {
  /** Since it began to play, in seconds of the song. */
  taps: readonly Seconds[];
  /** A tap; the first of all begins to play instead, where nothing plays yet. */
  tap(): void;
}

/** @param onTapped all that were tapped in one run, ascending */
export function useTapping(
  engine: Engine,
  play: () => void,
  onTapped: (taps: readonly Seconds[]) => void,
): Tapping {
  const [taps, setTaps] = useState<readonly Seconds[]>([]);
  const latest = useRef({ taps, onTapped });
  useEffect(() => {
    latest.current = { taps, onTapped };
  });
  useEffect(
    () =>
      engine.subscribe(() => {
        if (engine.getState().playing || latest.current.taps.length === 0) return;
        latest.current.onTapped(latest.current.taps);
        latest.current.taps = [];
        setTaps([]);
      }),
    [engine],
  );
  const tap = useCallback(() => {
    const { playing, loading } = engine.getState();
    if (loading) return;
    if (!playing) return play();
    const at = engine.positionSeconds();
    // After a jump back the later ones no longer count.
    setTaps((old) => [...old.filter((each) => each < at), at]);
  }, [engine, play]);
  return { taps, tap };
}
