/** Where the song is: a line that moves while it plays, with a mark at its upper end or without. */
import { useEffect, useRef } from 'react';
import { whileMoving } from '../../audio/whileMoving.ts';
import { xOf, type TimeView } from '../../canvas/view.ts';
import { useSong } from '../../song/SongContext.tsx';
import { BAND_PIXELS } from './SectionsBand.tsx';

interface Props {
  view: TimeView;
  /** It runs down over all rows; else it begins with its mark in the ruler and ends with what stays in sight. */
  over?: boolean;
}

/** Lies beside the rows, not in one: what a row holds is cut off at its edges. */
export function Playhead({ view, over = false }: Props) {
  const { engine } = useSong();
  const line = useRef<HTMLDivElement>(null);
  useEffect(
    () =>
      whileMoving(engine, () => {
        if (line.current)
          line.current.style.transform = `translateX(${xOf(view, engine.positionSeconds())}px)`;
      }),
    [view, engine],
  );
  return (
    <div
      className={over ? 'playhead-room over' : 'playhead-room'}
      style={over ? undefined : { top: BAND_PIXELS + 1 }}
      aria-hidden
    >
      <div
        ref={line}
        className={over ? 'playhead' : 'playhead marked'}
        {...(over && { 'data-testid': 'playhead' })}
      />
    </div>
  );
}
