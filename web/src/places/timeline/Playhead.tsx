/** Where the song is: a mark in the ruler and a line down over tempo and rows. */
import { useEffect, useRef } from 'react';
import { xOf, type TimeView } from '../../canvas/view.ts';
import { useSong } from '../../song/SongContext.tsx';
import { BAND_PIXELS } from './SectionsBand.tsx';

interface Props {
  view: TimeView;
  /** Height of the rows below what stays in sight above them. */
  rowsPixels: number;
}

/** Lies beside the rows, not in one: what a row holds is cut off at its edges. */
export function Playhead({ view, rowsPixels }: Props) {
  const { engine } = useSong();
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let request = 0;
    const place = () => {
      if (line.current) line.current.style.transform = `translateX(${xOf(view, engine.positionSeconds())}px)`;
    };
    const loop = () => {
      place();
      if (engine.getState().playing) request = requestAnimationFrame(loop);
    };
    loop();
    const unsubscribe = engine.subscribe(() => {
      cancelAnimationFrame(request);
      loop();
    });
    return () => {
      cancelAnimationFrame(request);
      unsubscribe();
    };
  }, [view, engine]);
  return (
    <div className="playhead-room" style={{ top: BAND_PIXELS + 1, bottom: -rowsPixels }} aria-hidden>
      <div ref={line} className="playhead" data-testid="playhead" />
    </div>
  );
}
