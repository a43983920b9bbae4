/** The row of a take while it is recorded: it grows with the playhead, at the speed of the screen. */
import { useEffect, useRef, useSyncExternalStore } from 'react';
import { xOf, type TimeView } from '../../canvas/view.ts';
import { useSong } from '../../song/SongContext.tsx';
import { colours } from '../../theme/tokens.ts';

export function TakeRow({ view }: { view: TimeView }) {
  const { engine } = useSong();
  const { recordingFromSeconds } = useSyncExternalStore(engine.subscribe, engine.getState);
  const grows = useRef<HTMLDivElement>(null);
  const says = useRef<HTMLSpanElement>(null);
  const row = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (recordingFromSeconds !== null) row.current?.scrollIntoView({ block: 'nearest' });
  }, [recordingFromSeconds]);
  useEffect(() => {
    if (recordingFromSeconds === null) return;
    let request = 0;
    const show = () => {
      const left = xOf(view, recordingFromSeconds);
      const right = xOf(view, engine.positionSeconds());
      const counted = engine.countInBeat();
      if (grows.current) {
        grows.current.style.left = `${left}px`;
        grows.current.style.width = `${Math.max(2, right - left)}px`;
      }
      if (says.current) says.current.textContent = counted === null ? 'Recording' : `Count-in ${counted}`;
      request = requestAnimationFrame(show);
    };
    show();
    return () => cancelAnimationFrame(request);
  }, [engine, view, recordingFromSeconds]);
  if (recordingFromSeconds === null) return null;
  return (
    <div className="part-row" data-testid="take-row" ref={row}>
      <div className="part-head">
        <div className="names">
          <span className="mark" style={{ background: colours.error }} aria-hidden>
            ●
          </span>
          <span ref={says} className="numbers" role="status" style={{ fontWeight: 600 }} />
        </div>
      </div>
      <div className="part-picture" style={{ position: 'relative', overflow: 'hidden' }}>
        <div
          ref={grows}
          style={{
            position: 'absolute',
            top: 6,
            bottom: 6,
            borderRadius: 4,
            background: `${colours.error}33`,
            borderRight: `2px solid ${colours.error}`,
          }}
        />
      </div>
    </div>
  );
}
