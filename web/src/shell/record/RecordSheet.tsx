/** Side sheet while recording is ready: the input, what happens before and while it records, and where it goes. */
import { useEffect, useState, useSyncExternalStore } from 'react';
import { AudioOutlined, CloseOutlined } from '@ant-design/icons';
import { App, Button, Checkbox, InputNumber, Segmented, Select, Spin } from 'antd';
import { melodyLineOf, takeNames, type Part, type TimeMap } from '@plundra/core/song';
import type { LoopRange } from '../../audio/engine.ts';
import { soundInputs } from '../../audio/soundInput.ts';
import { measureDelay, NoClickError } from '../../audio/measureDelay.ts';
import { useRecord } from '../../song/recording/RecordingContext.ts';
import { useSong } from '../../song/SongContext.tsx';
import { InputMeter } from './InputMeter.tsx';
import { Tuner } from './Tuner.tsx';

const NEW_PART = 'new';
const SYSTEM = 'system';
const NOTHING = 'nothing';

export function RecordSheet() {
  const { song, time, engine } = useSong();
  const { recorder, state, settings, set, intoPartId, setInto, guidePartId, setGuide, toggle, setOpen } =
    useRecord();
  const { input, phase } = state;
  const play = useSyncExternalStore(engine.subscribe, engine.getState);
  const [inputs, setInputs] = useState<{ deviceId: string; name: string }[]>([]);
  useEffect(() => {
    const look = () => void soundInputs().then(setInputs, () => setInputs([]));
    look();
    navigator.mediaDevices?.addEventListener('devicechange', look);
    return () => navigator.mediaDevices?.removeEventListener('devicechange', look);
  }, [input]);
  const busy = phase !== 'off';
  const targets = song.parts.filter(({ kind }) => kind === 'recording');
  const into = targets.find(({ id }) => id === intoPartId);
  const [next] = into?.kind === 'recording' ? takeNames(into, 1) : [];
  return (
    <aside className="side-sheet record-sheet" aria-label="Record">
      <div className="row sheet-head">
        <h2>
          <AudioOutlined /> Record
        </h2>
        <Button
          type="text"
          icon={<CloseOutlined />}
          aria-label="Close the record sheet"
          disabled={busy}
          onClick={() => setOpen(false)}
        />
      </div>
      <div className="row">
        <span className="label">Input</span>
        <Select
          aria-label="Input"
          disabled={busy}
          value={inputs.some(({ deviceId }) => deviceId === settings.deviceId) ? settings.deviceId! : SYSTEM}
          onChange={(deviceId) => set({ deviceId: deviceId === SYSTEM ? null : deviceId })}
          options={[
            { value: SYSTEM, label: 'As the system says' },
            ...inputs.map(({ deviceId, name }) => ({ value: deviceId, label: name })),
          ]}
        />
      </div>
      <div className="row">
        <span className="label">Channels</span>
        <Segmented
          size="small"
          aria-label="Channels"
          disabled={busy}
          value={settings.channels}
          options={[
            { value: 1, label: 'mono' },
            { value: 2, label: 'stereo' },
          ]}
          onChange={(channels) => set({ channels: channels as 1 | 2 })}
        />
      </div>
      <InputMeter key={input?.deviceId ?? ''} input={input} />
      {input?.sampleRateHz !== undefined && input.sampleRateHz !== engine.sampleRateHz() && (
        <p className="quiet">
          The input runs at {input.sampleRateHz / 1000} kHz, the output at {engine.sampleRateHz() / 1000} kHz:
          what comes in is converted. Set both to the same rate in the system to keep it as it is.
        </p>
      )}
      <Tuner
        input={input}
        sampleRateHz={engine.sampleRateHz()}
        a4Hz={settings.a4Hz}
        setA4Hz={(a4Hz) => set({ a4Hz })}
      />
      <h3>Before and while</h3>
      <div className="row">
        <span className="label">Count-in</span>
        <span className="field">
          <Segmented
            size="small"
            aria-label="Bars of count-in"
            disabled={busy}
            value={settings.countInBars}
            options={[0, 1, 2, 3, 4]}
            onChange={(bars) => set({ countInBars: Number(bars) })}
          />
          bars
        </span>
      </div>
      <div className="row">
        <span className="label">Metronome</span>
        <Segmented
          size="small"
          aria-label="Metronome while recording"
          disabled={busy}
          value={settings.metronome}
          options={[
            { value: 'always', label: 'always' },
            { value: 'count-in', label: 'count-in' },
            { value: 'off', label: 'off' },
          ]}
          onChange={(metronome) => set({ metronome: metronome as typeof settings.metronome })}
        />
      </div>
      <div className="row">
        <span className="label">Goes into</span>
        <Select
          aria-label="Where the recording goes"
          disabled={busy}
          value={into?.id ?? NEW_PART}
          onChange={(id) => setInto(id === NEW_PART ? null : id)}
          options={[
            { value: NEW_PART, label: 'A new part' },
            ...targets.map(({ id, name }) => ({ value: id, label: `A take of ${name}` })),
          ]}
        />
      </div>
      <div className="row">
        <span className="label">Guide</span>
        <Select
          aria-label="Notes that are seen under the recording"
          value={guidePartId ?? NOTHING}
          onChange={(id) => setGuide(id === NOTHING ? null : id)}
          options={[
            { value: NOTHING, label: 'Nothing' },
            ...song.parts.filter(hasNotesToSee).map(({ id, name }) => ({ value: id, label: name })),
          ]}
        />
      </div>
      <div className="checks">
        <Checkbox
          checked={settings.rounds}
          disabled={busy || !play.loop}
          onChange={({ target }) => set({ rounds: target.checked })}
        >
          Round the loop, each round a take
        </Checkbox>
        <Checkbox
          checked={settings.punch || settings.rounds}
          disabled={busy || !play.loop || settings.rounds}
          onChange={({ target }) => set({ punch: target.checked })}
        >
          Only from{' '}
          {play.loop
            ? `bar ${barText(time, play.loop.startSeconds)} to bar ${barText(time, play.loop.endSeconds)}`
            : 'the start of the loop to its end'}
        </Checkbox>
        {!play.loop && <p className="quiet">For these, set a loop: drag with Shift on the bar ruler.</p>}
        <Checkbox checked={settings.monitor} onChange={({ target }) => set({ monitor: target.checked })}>
          Hear yourself <span className="quiet">(use headphones)</span>
        </Checkbox>
      </div>
      <DelayField disabled={busy || !input} />
      <div className="sheet-foot">
        <p className="quiet what-happens">
          {whatHappens(settings, play.loop, time, engine.positionSeconds())}
        </p>
        <Button
          type="primary"
          block
          size="large"
          danger={phase === 'recording'}
          loading={phase === 'opening' || phase === 'saving'}
          onClick={toggle}
        >
          {phase === 'recording'
            ? 'Stop and keep'
            : phase === 'saving'
              ? 'Keeping it'
              : settings.rounds && play.loop
                ? 'Record takes round the loop'
                : `Record ${next ?? 'a new part'}`}
        </Button>
        {!input && recorder.getState().phase === 'off' && (
          <p className="quiet" role="status">
            <Spin size="small" delay={300} /> The input is being opened. The browser may ask whether this page
            may use it.
          </p>
        )}
      </div>
    </aside>
  );
}

/** Notes of its own, or a melody that was read. */
function hasNotesToSee(part: Part): boolean {
  if (part.kind === 'notes') return part.passages.some(({ notes }) => notes.length > 0);
  return part.kind === 'recording' && part.takes.some((take) => melodyLineOf(take) !== null);
}

/** What is taken off every recording, so that it lies where it was sung. */
function DelayField({ disabled }: { disabled: boolean }) {
  const { engine } = useSong();
  const { recorder, state } = useRecord();
  const { message } = App.useApp();
  const [measuring, setMeasuring] = useState(false);
  const delayMs = Math.round(recorder.delaySeconds() * 10_000) / 10;
  const measure = async () => {
    if (!state.input) return;
    setMeasuring(true);
    engine.stop();
    try {
      const seconds = await measureDelay(engine.ensureContext(), engine.output(), state.input);
      recorder.setDelaySeconds(seconds);
      void message.success(
        `The input is ${(seconds * 1000).toFixed(1)} ms late; recordings are moved by that.`,
        5,
      );
    } catch (error) {
      void message.warning(
        error instanceof NoClickError ? error.message : 'The delay could not be measured. Try again.',
        9,
      );
    } finally {
      setMeasuring(false);
    }
  };
  return (
    <div className="row">
      <span className="label">Delay</span>
      <span className="field">
        <InputNumber
          aria-label="Delay of the input in milliseconds"
          size="small"
          style={{ width: 76 }}
          disabled={disabled || measuring}
          value={delayMs}
          min={-200}
          max={1000}
          step={0.1}
          onChange={(value) => value !== null && recorder.setDelaySeconds(value / 1000)}
        />
        ms
        <Button
          size="small"
          disabled={disabled}
          loading={measuring}
          title="Plays clicks and finds them in what comes in: connect the output to the input by a cable, or hold the microphone to the loudspeaker"
          onClick={() => void measure()}
        >
          Measure
        </Button>
      </span>
    </div>
  );
}

function barText(time: TimeMap, seconds: number): string {
  const { bar, beat } = time.barAt(Math.round(time.ticksAt(seconds)));
  return beat === 1 ? String(bar) : `${bar}.${beat}`;
}

/** "Two bars of clicks, then it records from bar 5 to bar 13, again and again. What was there stays beside it." */
function whatHappens(
  { countInBars, rounds, punch }: ReturnType<typeof useRecord>['settings'],
  loop: LoopRange | null,
  time: TimeMap,
  atSeconds: number,
): string {
  const clicks = [
    '',
    'One bar of clicks, then it',
    'Two bars of clicks, then it',
    'Three bars of clicks, then it',
    'Four bars of clicks, then it',
  ][countInBars];
  const where =
    loop && (rounds || punch)
      ? `records from bar ${barText(time, loop.startSeconds)} to bar ${barText(time, loop.endSeconds)}${rounds ? ' until you stop it, each round a take' : ''}`
      : `records from bar ${barText(time, atSeconds)} until you stop it`;
  return `${clicks || 'It'} ${where}. What was there stays beside it.`;
}
