/** Changes of key and metre on the ruler: each a mark that opens what can be set there, also bars put in and taken out. */
import { App, InputNumber, Popover, Select } from 'antd';
import {
  EditError,
  keyAt,
  keyChangesOf,
  planKeyAt,
  planModulation,
  semitonesBetween,
  withMetreAt,
  type Metre,
  type MetreEntry,
} from '@plundra/core/song';
import { keyName, type Key } from '@plundra/core/theory';
import { xOf, type TimeView } from '../../canvas/view.ts';
import { Button } from '../../controls/index.tsx';
import { askTransposing } from '../../song/askTransposing.tsx';
import { BarsEditor } from '../../song/BarsEditor.tsx';
import { KeySelect } from '../../song/KeySelect.tsx';
import { useSong } from '../../song/SongContext.tsx';

/** So far behind its bar line a mark stands, beside the number of the bar. */
const BESIDE_NUMBER_PIXELS = 24;
const UNITS = [2, 4, 8, 16].map((value) => ({ value: value as MetreEntry['unit'], label: String(value) }));

interface Props {
  view: TimeView;
  width: number;
  /** The place that is open, in ticks; null: none. */
  openAt: number | null;
  setOpenAt(ticks: number | null): void;
}

export function FrameMarks({ view, width, openAt, setOpenAt }: Props) {
  const { song, time } = useSong();
  const metres = song.metreMap.slice(1);
  const places = new Set([
    ...keyChangesOf(song).map(({ startTicks }) => startTicks),
    ...metres.map(({ startTicks }) => startTicks),
    ...(openAt === null ? [] : [openAt]),
  ]);
  return [...places]
    .sort((a, b) => a - b)
    .map((startTicks) => {
      const x = xOf(view, time.secondsAt(startTicks));
      if (x < -BESIDE_NUMBER_PIXELS || x > width) return null;
      const key = keyChangesOf(song).find((each) => each.startTicks === startTicks)?.key;
      const metre = metres.find((each) => each.startTicks === startTicks);
      const text = [metre && `${metre.beats}/${metre.unit}`, key && keyName(key)].filter(Boolean).join(' · ');
      const { bar } = time.barAt(startTicks);
      return (
        <Popover
          key={startTicks}
          open={openAt === startTicks}
          trigger="click"
          destroyOnHidden
          placement="bottom"
          onOpenChange={(open) => setOpenAt(open ? startTicks : null)}
          content={<FrameFields startTicks={startTicks} bar={bar} onDone={() => setOpenAt(null)} />}
        >
          <button
            className="frame-mark numbers"
            style={{ left: x + BESIDE_NUMBER_PIXELS }}
            aria-label={`Bar ${bar}: ${text || 'nothing changes yet'}`}
          >
            {text || '…'}
          </button>
        </Popover>
      );
    });
}

const createId = () => crypto.randomUUID();

function FrameFields({ startTicks, bar, onDone }: { startTicks: number; bar: number; onDone(): void }) {
  const { song, time, apply } = useSong();
  const { modal, message } = App.useApp();
  const isStart = startTicks === 0;
  const keyBefore = isStart ? null : keyAt(song, startTicks - 1);
  const ownKey = isStart
    ? song.key
    : (keyChangesOf(song).find((each) => each.startTicks === startTicks)?.key ?? null);
  const metre = song.metreMap.findLast((each) => each.startTicks <= startTicks)!;
  const changesMetre = !isStart && metre.startTicks === startTicks;
  const onBarLine = time.barStartTicks(bar) === startTicks;

  const setKey = (key: Key | null) => {
    try {
      const edit = planKeyAt(song, startTicks, key);
      if (edit) apply(key ? `${keyName(key)} from bar ${bar}` : `No change of key at bar ${bar}`, edit);
    } catch (error) {
      if (!(error instanceof EditError)) throw error;
      void message.warning(error.message, 6);
    }
  };
  const chooseKey = (key: Key | null) => {
    const from = keyAt(song, startTicks);
    const semitones = key && from ? semitonesBetween(from, key) : 0;
    if (!key || !from || semitones === 0) return setKey(key);
    try {
      const plan = planModulation(song, startTicks, key, semitones, createId);
      onDone();
      askTransposing(modal, {
        from,
        to: key,
        where: `at bar ${bar}`,
        semitones,
        moving: [
          ...plan.moving,
          ...(plan.chords > 0 ? [`${plan.chords} ${plan.chords === 1 ? 'chord' : 'chords'}`] : []),
        ],
        staying: plan.staying,
        onNameOnly: () => setKey(key),
        onTranspose: () => apply(`Transpose to ${keyName(key)} from bar ${bar}`, plan.edit),
      });
    } catch (error) {
      if (!(error instanceof EditError)) throw error;
      void message.warning(error.message, 6);
    }
  };
  const setMetre = (next: Metre | null) =>
    apply(next ? `${next.beats}/${next.unit} from bar ${bar}` : `No change of metre at bar ${bar}`, {
      type: 'song.set',
      patch: { metreMap: withMetreAt(song.metreMap, startTicks, next) },
    });

  return (
    <div className="dialog-fields" style={{ width: 270 }}>
      <b>From bar {bar} on</b>
      <div className="row">
        <span className="label">Key</span>
        <KeySelect
          label="Key from here on"
          width={150}
          value={ownKey}
          none={isStart ? 'Not set yet' : 'As before'}
          noneShort={isStart ? 'Not set yet' : keyBefore ? `As before` : 'Not set yet'}
          onChoose={chooseKey}
        />
      </div>
      <div className="row">
        <span className="label">Metre</span>
        <span style={{ display: 'flex', gap: 4, alignItems: 'center' }}>
          <InputNumber
            aria-label="Beats in a bar from here on"
            size="small"
            min={1}
            max={32}
            precision={0}
            style={{ width: 60 }}
            disabled={!onBarLine}
            value={metre.beats}
            onChange={(beats) => beats !== null && beats !== metre.beats && setMetre({ ...metre, beats })}
          />
          /
          <Select
            aria-label="Note value of a beat from here on"
            size="small"
            style={{ width: 60 }}
            disabled={!onBarLine}
            options={UNITS}
            value={metre.unit}
            onChange={(unit) => setMetre({ ...metre, unit })}
          />
        </span>
      </div>
      <span className="quiet">
        {onBarLine
          ? 'Notes and recordings stay where they sound when the metre changes; bars are counted anew.'
          : 'A metre begins with a bar: open this on a bar line to change it.'}
      </span>
      {(changesMetre || (ownKey && !isStart)) && (
        <span style={{ display: 'flex', gap: 6 }}>
          {ownKey && !isStart && (
            <Button size="small" onClick={() => setKey(null)}>
              Key as before
            </Button>
          )}
          {changesMetre && (
            <Button size="small" onClick={() => setMetre(null)}>
              Metre as before
            </Button>
          )}
        </span>
      )}
      {onBarLine && <BarsEditor bar={bar} onDone={onDone} />}
    </div>
  );
}
