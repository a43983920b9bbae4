/** A tuner on the input: the nearest note, how far it is off, and a needle that stands still. */
import { useEffect, useRef, useState } from 'react';
import { InputNumber } from 'antd';
import { createTuner, stringOf, type TunerReading } from '@plundra/core/reading';
import { noteName } from '@plundra/core/theory';
import type { SoundInput } from '../../audio/soundInput.ts';
import { colours } from '../../theme/tokens.ts';

/** Nearer than this it is in tune. */
const IN_TUNE_CENTS = 3;
/** What was heard last stays so long. */
const STAYS_MS = 900;
/** The numbers change so often at most. */
const NUMBERS_MS = 100;

interface Props {
  input: SoundInput | undefined;
  sampleRateHz: number;
  a4Hz: number;
  setA4Hz(hz: number): void;
}

export function Tuner({ input, sampleRateHz, a4Hz, setA4Hz }: Props) {
  const [shown, setShown] = useState<TunerReading | undefined>();
  const reference = useRef(a4Hz);
  useEffect(() => {
    reference.current = a4Hz;
  }, [a4Hz]);
  useEffect(() => {
    if (!input) return;
    const tuner = createTuner(sampleRateHz, () => reference.current);
    let heardAt = 0;
    let saidAt = 0;
    return input.subscribe(({ channels }) => {
      const reading = tuner.push(channels[0]);
      const now = performance.now();
      if (reading) heardAt = now;
      if (now - saidAt < NUMBERS_MS) return;
      saidAt = now;
      if (reading) setShown(reading);
      else if (now - heardAt > STAYS_MS) setShown(undefined);
    });
  }, [input, sampleRateHz]);
  const cents = shown ? Math.round(shown.cents) : 0;
  const inTune = shown !== undefined && Math.abs(shown.cents) <= IN_TUNE_CENTS;
  const colour = !shown
    ? colours.quietInk
    : inTune
      ? colours.inTune
      : shown.cents > 0
        ? colours.sharp
        : colours.flat;
  return (
    <div>
      <h3 className="with-field">
        Tuner
        <span className="field">
          A4 =
          <InputNumber
            size="small"
            aria-label="Reference of the tuner in Hz"
            value={a4Hz}
            min={415}
            max={466}
            step={1}
            style={{ width: 70 }}
            onChange={(value) => value !== null && setA4Hz(value)}
          />
          Hz
        </span>
      </h3>
      <div className="tuner" data-testid="tuner">
        <div className="tuner-note numbers" role="status">
          {shown ? noteName(shown.midi) : '–'}
        </div>
        <div className="tuner-scale">
          <div className="tuner-line">
            <div className="tuner-zone" />
            {[-50, -40, -30, -20, -10, 0, 10, 20, 30, 40, 50].map((mark) => (
              <span
                key={mark}
                className={mark === 0 ? 'mark zero' : 'mark'}
                style={{ left: `${50 + mark}%` }}
              />
            ))}
            <div
              className="needle"
              style={{ background: colour, opacity: shown ? 1 : 0, left: `${50 + (shown?.cents ?? 0)}%` }}
            />
          </div>
          <div className="tuner-words">
            <span className="quiet">flat</span>
            <b style={{ color: colour }}>
              {!shown
                ? 'play a note'
                : inTune
                  ? 'in tune'
                  : `${Math.abs(cents)} cents ${cents > 0 ? 'sharp' : 'flat'}`}
            </b>
            <span className="quiet">sharp</span>
          </div>
        </div>
      </div>
      <div className="quiet tuner-string">
        {shown ? [`${shown.hz.toFixed(1)} Hz`, stringOf(shown.midi)].filter(Boolean).join(' · ') : ' '}
      </div>
    </div>
  );
}
