/** The row of a take while it is recorded: its waveform and what is sung grow with the playhead, over the notes of a guide. */
import { useEffect, useMemo, useRef, useSyncExternalStore } from 'react';
import { prepareSurface } from '../../canvas/surface.ts';
import type { TimeView } from '../../canvas/view.ts';
import { useRecord } from '../../song/recording/RecordingContext.ts';
import { useSong } from '../../song/SongContext.tsx';
import { colours } from '../../theme/tokens.ts';
import { drawLiveTake, notesToSee } from './drawLiveTake.ts';

export function TakeRow({ view }: { view: TimeView }) {
  const { song, time, engine } = useSong();
  const { state, guidePartId, intoPartId } = useRecord();
  const { recordingFromSeconds } = useSyncExternalStore(engine.subscribe, engine.getState);
  const canvas = useRef<HTMLCanvasElement>(null);
  const says = useRef<HTMLSpanElement>(null);
  const row = useRef<HTMLDivElement>(null);
  const { recording } = state;
  const there = recordingFromSeconds !== null || recording !== undefined;
  const guide = song.parts.find(({ id }) => id === guidePartId);
  const guideNotes = useMemo(() => (guide ? notesToSee(guide, time) : []), [guide, time]);
  useEffect(() => {
    if (there) row.current?.scrollIntoView({ block: 'nearest' });
  }, [there]);
  useEffect(() => {
    if (!there) return;
    let request = 0;
    const show = () => {
      const counted = engine.countInBeat();
      const round = recording?.take.roundSeconds;
      const recorded = recording
        ? recording.live.peaks.length * recording.live.columnSeconds - (recording.live.startSeconds ?? 0)
        : 0;
      const doing =
        round && recorded > 0 ? `Recording round ${Math.floor(recorded / round) + 1}` : 'Recording';
      if (says.current) says.current.textContent = counted === null ? doing : `Count-in ${counted}`;
      const surface = prepareSurface(canvas.current);
      if (surface) drawLiveTake(surface, { view, recording, guide: guideNotes });
      request = requestAnimationFrame(show);
    };
    show();
    return () => cancelAnimationFrame(request);
  }, [engine, view, there, recording, guideNotes]);
  if (!there) return null;
  const into = song.parts.find(({ id }) => id === intoPartId);
  return (
    <div className="part-row take-row" data-testid="take-row" ref={row}>
      <div className="part-head">
        <div className="names">
          <span className="mark" style={{ background: colours.error }} aria-hidden>
            ●
          </span>
          <span ref={says} className="numbers" role="status" style={{ fontWeight: 600 }} />
        </div>
        <div className="quiet">
          {into ? `a take of ${into.name}` : 'a new part'}
          {guide && <div>over {guide.name}</div>}
        </div>
      </div>
      <div className="part-picture">
        <canvas ref={canvas} role="img" aria-label="What is being recorded" />
      </div>
    </div>
  );
}
