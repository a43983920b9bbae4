/** The transport: play, record, position, loop, listening. */
import { useEffect, useRef, useSyncExternalStore } from 'react';
import {
  AudioOutlined,
  CaretRightFilled,
  PauseOutlined,
  RetweetOutlined,
  StepBackwardFilled,
} from '@ant-design/icons';
import { Spin, Tooltip } from 'antd';
import { formatPosition } from '@plundra/core/song';
import { Overflow } from '../controls/Overflow.tsx';
import { Button, Checkbox, Segmented, Slider } from '../controls/index.tsx';
import type { ListenMode } from '../audio/playlist.ts';
import { useCorrected, useSong } from '../song/SongContext.tsx';
import { useRecord } from '../song/recording/RecordingContext.ts';

const MODES: { value: ListenMode; label: string; key: string }[] = [
  { value: 'recording', label: 'Recording', key: '1' },
  { value: 'notes', label: 'Notes', key: '2' },
  { value: 'both', label: 'Both', key: '3' },
  { value: 'split', label: 'One in each ear', key: '4' },
];

export function Transport() {
  const { engine, time, listen, setListen } = useSong();
  const { corrected: corrections, making } = useCorrected();
  const state = useSyncExternalStore(engine.subscribe, engine.getState);
  const corrected = [...corrections.values()].some(({ patches }) => patches.length > 0);
  const barOf = (seconds: number) => {
    const { bar, beat } = time.barAt(Math.round(time.ticksAt(seconds)));
    return beat === 1 ? String(bar) : `${bar}.${beat}`;
  };
  const loopText = state.loop ? `${barOf(state.loop.startSeconds)}–${barOf(state.loop.endSeconds)}` : 'Loop';
  return (
    <footer className="transport" aria-label="Transport">
      <Tooltip title="To the start (Home)">
        <Button
          type="text"
          aria-label="To the start"
          icon={<StepBackwardFilled />}
          onClick={() => engine.seek(0)}
        />
      </Tooltip>
      <Button
        type="primary"
        shape="circle"
        size="large"
        aria-label={state.playing ? 'Stop' : 'Play'}
        title={state.playing ? 'Stop (Space)' : 'Play (Space)'}
        loading={state.loading}
        icon={state.playing ? <PauseOutlined /> : <CaretRightFilled />}
        onClick={() => engine.toggle()}
      />
      <RecordButton />
      <Position />
      <Tooltip
        title={
          state.loop
            ? 'Loop on or off (L). Shift-drag on the bar ruler sets the range.'
            : 'Shift-drag on the bar ruler to set a loop, or select notes and press L'
        }
      >
        <Button
          type={state.loopOn ? 'primary' : 'default'}
          ghost={state.loopOn}
          icon={<RetweetOutlined />}
          disabled={!state.loop}
          onClick={() => engine.toggleLoop()}
          className="numbers"
        >
          {loopText}
        </Button>
      </Tooltip>
      <Checkbox checked={state.metronome} onChange={() => engine.toggleMetronome()}>
        Metronome
      </Checkbox>
      <span className="gap" />
      {making && (
        <Tooltip title="Corrections are being made; until then the sound is as before">
          <span role="status" aria-label="Corrections are being made" className="numbers quiet">
            <Spin size="small" delay={400} />
            {making.total > 1 && ` ${making.done} of ${making.total}`}
          </span>
        </Tooltip>
      )}
      <Overflow label="More of the transport">
        <Tooltip title="One bar of clicks before playing; beside the record button you set those before recording">
          <Checkbox checked={state.countIn} onChange={() => engine.toggleCountIn()}>
            Count-in
          </Checkbox>
        </Tooltip>
        {listen.focusPartId && (
          <Checkbox
            checked={listen.withOthers}
            onChange={(event) => setListen({ withOthers: event.target.checked })}
          >
            With the others
          </Checkbox>
        )}
        {listen.mode === 'both' && (
          <Tooltip
            title={`Blend: recording ${Math.round(Math.min(1, 2 - 2 * listen.blend) * 100)} %, notes ${Math.round(Math.min(1, 2 * listen.blend) * 100)} %`}
          >
            <div
              style={{
                minWidth: 96,
                flex: 'none',
                display: 'flex',
                alignItems: 'center',
                gap: 8,
              }}
            >
              <span className="quiet blend-label">Blend</span>
              <Slider
                style={{ flex: 1 }}
                ariaLabelForHandle="Blend of recording and notes"
                min={0}
                max={1}
                step={0.01}
                value={listen.blend}
                onChange={(blend) => setListen({ blend })}
                tooltip={{ open: false }}
                included={false}
              />
            </div>
          </Tooltip>
        )}
      </Overflow>
      {/* Always in its place, so that nothing beside it moves with the first correction. */}
      <Tooltip
        title={
          corrected
            ? 'Hear the recordings as they were before any correction (hold B)'
            : 'Nothing is corrected yet'
        }
      >
        <Button
          aria-pressed={listen.before}
          type={listen.before ? 'primary' : 'default'}
          disabled={!corrected}
          onClick={() => setListen({ before: !listen.before })}
        >
          Before
        </Button>
      </Tooltip>
      <Segmented
        aria-label="Listen to"
        value={listen.mode}
        options={MODES.map(({ value, label, key }) => ({
          value,
          label: <span title={`Key ${key}`}>{label}</span>,
        }))}
        onChange={(mode) => setListen({ mode })}
      />
    </footer>
  );
}

/** Records from the playhead on; while it does, the ring grows with the level that comes in. Beside it, how it records. */
function RecordButton() {
  const { state, toggle, open, setOpen, intoPartId } = useRecord();
  const { song } = useSong();
  const ring = useRef<HTMLSpanElement>(null);
  const { phase, recording } = state;
  const on = phase === 'recording';
  const live = recording?.live;
  useEffect(() => {
    if (!on || !live) return;
    let request = 0;
    const show = () => {
      // −48 dB to 0 dB is the whole ring.
      const level = live.peaks.at(-1) ?? 0;
      const share = Math.max(0, Math.min(1, 1 + (20 * Math.log10(level + 1e-6)) / 48));
      ring.current?.style.setProperty('--level', share.toFixed(3));
      request = requestAnimationFrame(show);
    };
    show();
    return () => cancelAnimationFrame(request);
  }, [on, live]);
  const into = song.parts.find(({ id }) => id === intoPartId)?.name;
  return (
    <>
      <Tooltip
        title={
          on
            ? 'End the recording and keep it'
            : `Record ${into ? `a take of ${into}` : 'a new part'} from the playhead on`
        }
      >
        <Button
          shape="circle"
          aria-label={on ? 'Stop recording' : 'Record'}
          aria-pressed={on}
          loading={phase === 'opening' || phase === 'saving'}
          onClick={toggle}
          className={on ? 'record on' : 'record'}
          icon={<span ref={ring} className="disc" />}
        />
      </Tooltip>
      <Tooltip title="Input, tuner, count-in, loop and takes">
        <Button
          type="text"
          aria-label="How to record"
          aria-expanded={open}
          icon={<AudioOutlined />}
          disabled={phase !== 'off' && open}
          onClick={() => setOpen(!open)}
          className={open ? 'record-settings open' : 'record-settings'}
        />
      </Tooltip>
    </>
  );
}

/** Nobody reads a number that changes more often, and each change makes the browser lay out and paint. */
const POSITION_MS = 50;

/** The position runs past React. */
function Position() {
  const { engine, time } = useSong();
  const bars = useRef<HTMLSpanElement>(null);
  const clock = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    let later = 0;
    const show = () => {
      const seconds = engine.positionSeconds();
      const ticks = Math.round(time.ticksAt(seconds));
      const counted = engine.countInBeat();
      say(bars.current, counted === null ? formatPosition(time.barAt(ticks)) : `Count ${counted}`);
      say(clock.current, formatClock(seconds));
    };
    const loop = () => {
      show();
      if (engine.getState().playing) later = window.setTimeout(loop, POSITION_MS);
    };
    loop();
    const unsubscribe = engine.subscribe(() => {
      window.clearTimeout(later);
      loop();
    });
    return () => {
      window.clearTimeout(later);
      unsubscribe();
    };
  }, [engine, time]);
  return (
    <>
      <span ref={bars} className="position numbers" data-testid="position" title="Bar, beat, tick" />
      <span ref={clock} className="quiet numbers hide-narrow" style={{ minWidth: 50 }} />
    </>
  );
}

/** "1:04.7" */
/** The page is laid out anew only for a text that differs. */
function say(element: HTMLElement | null, text: string): void {
  if (element && element.textContent !== text) element.textContent = text;
}

export function formatClock(seconds: number): string {
  const minutes = Math.floor(seconds / 60);
  return `${minutes}:${(seconds - minutes * 60).toFixed(1).padStart(4, '0')}`;
}
