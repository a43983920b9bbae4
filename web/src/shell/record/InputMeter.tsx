/** How loud the input is: a bar, the highest peak that stays, and a mark where it was too loud. */
import { useEffect, useRef, useState } from 'react';
import type { SoundInput } from '../../audio/soundInput.ts';
import { colours } from '../../theme/tokens.ts';

const FLOOR_DB = -60;
const CLIP = 0.999;
/** The bar falls so fast. */
const FALL_DB_PER_SECOND = 24;
const MARKS = [-48, -36, -24, -12, -6, 0];

const dbOf = (value: number) => 20 * Math.log10(Math.max(value, 1e-6));
const shareOf = (db: number) => Math.max(0, Math.min(1, 1 - db / FLOOR_DB));

export function InputMeter({ input }: { input: SoundInput | undefined }) {
  const bar = useRef<HTMLDivElement>(null);
  const peakMark = useRef<HTMLDivElement>(null);
  const [peak, setPeak] = useState(0);
  const reset = () => setPeak(0);
  useEffect(() => {
    if (!input) return;
    let shownDb = FLOOR_DB;
    let last = performance.now();
    return input.subscribe(({ channels }) => {
      let loudest = 0;
      for (const channel of channels)
        for (const value of channel) loudest = Math.max(loudest, Math.abs(value));
      const now = performance.now();
      shownDb = Math.max(dbOf(loudest), shownDb - ((now - last) / 1000) * FALL_DB_PER_SECOND);
      last = now;
      if (bar.current) bar.current.style.width = `${100 * shareOf(shownDb)}%`;
      setPeak((old) => Math.max(old, loudest));
    });
  }, [input]);
  const clipped = peak >= CLIP;
  return (
    <div className="input-meter">
      <div className="row">
        <span className="label">Level</span>
        <span className="numbers">
          <span className="quiet">peak </span>
          <b>{peak > 0 ? `${dbOf(peak).toFixed(1).replace('-', '−')} dB` : '–'}</b>
        </span>
      </div>
      <div className="meter-line">
        <div
          className="meter"
          role="meter"
          aria-label="Level of the input"
          aria-valuemin={FLOOR_DB}
          aria-valuemax={0}
          aria-valuenow={Math.round(dbOf(peak))}
        >
          <div ref={bar} className="bar" />
          {peak > 0 && (
            <div ref={peakMark} className="peak" style={{ left: `${100 * shareOf(dbOf(peak))}%` }} />
          )}
        </div>
        <button
          className={clipped ? 'clip on' : 'clip'}
          onClick={reset}
          title="Too loud: turn the input down. A click forgets the peak."
          aria-label={clipped ? 'The input was too loud; forget the peak' : 'Forget the peak'}
          style={clipped ? { background: colours.error } : undefined}
        >
          clip
        </button>
      </div>
      <div className="meter-scale quiet numbers" aria-hidden>
        {MARKS.map((db) => (
          <span key={db} style={{ left: `${100 * shareOf(db)}%` }}>
            {String(db).replace('-', '−')}
          </span>
        ))}
      </div>
    </div>
  );
}
