/** How an item fits the song, and putting it in. */
import { useSyncExternalStore, useState } from 'react';
import { Button, Checkbox, Input, InputNumber, Select, Switch } from 'antd';
import {
  isPitched,
  itemLengthTicks,
  takesItem,
  type FitWish,
  type ItemFit,
  type ShelfItem,
  type SongPlace,
} from '@plundra/core/shelf';
import { formatPosition, parsePosition } from '@plundra/core/song';
import { keyName } from '@plundra/core/theory';
import { useSong } from '../../song/SongContext.tsx';
import { partColours } from '../../theme/tokens.ts';
import { longerText, semitonesText, tempoChange } from './fitText.ts';
import { OverChordsPicture } from './OverChordsPicture.tsx';
import { nextBarTicks } from './hearingSpan.ts';

export interface PutInWish extends FitWish {
  upbeatBefore: boolean;
  /** Null: a new part. */
  partId: string | null;
  /** Null: where the loop begins, else the bar of the playhead. */
  atTicks: number | null;
  /** Bar before which it ends; null: once. */
  untilBar: number | null;
}

export const FIRST_WISH: PutInWish = {
  key: true,
  tempo: true,
  upbeatBefore: true,
  partId: null,
  atTicks: null,
  untilBar: null,
};

interface Props {
  item: ShelfItem;
  fit: ItemFit;
  place: SongPlace;
  /** Where it is heard with the song now. */
  heardAtTicks: number | null;
  wish: PutInWish;
  setWish(change: Partial<PutInWish>): void;
  onPutIn(): void;
}

/** Where an item goes that is put in now. */
export function usePlaceNow(wish: Pick<PutInWish, 'atTicks'>): { atTicks: number; why: string } {
  const { engine, time } = useSong();
  const { loop, loopOn } = useSyncExternalStore(engine.subscribe, engine.getState);
  if (wish.atTicks !== null) return { atTicks: wish.atTicks, why: '' };
  if (loop && loopOn) return { atTicks: nextBarTicks(time, loop.startSeconds), why: 'loop’s start' };
  const ticks = Math.round(time.ticksAt(engine.positionSeconds()));
  return { atTicks: time.barStartTicks(time.barAt(ticks).bar), why: 'bar of the playhead' };
}

export function PutInFields({ item, fit, place, heardAtTicks, wish, setWish, onPutIn }: Props) {
  const { song, time } = useSong();
  const here = usePlaceNow(wish);
  const heard = wish.atTicks === null && heardAtTicks !== null;
  const { atTicks, why } = heard ? { atTicks: heardAtTicks, why: 'where it is heard' } : here;
  const [typed, setTyped] = useState<string | null>(null);
  const fits = wish.key || wish.tempo;
  const parts = song.parts.filter((part) => takesItem(part, item));
  const into = parts.find(({ id }) => id === wish.partId);
  const { bar } = time.barAt(atTicks);
  const lengthTicks = itemLengthTicks({ ...item, bpm: fit.countedBpm ?? item.bpm });
  const once =
    lengthTicks === undefined ? undefined : time.barAt(Math.max(0, atTicks + lengthTicks - 1)).bar + 1;
  const until = wish.untilBar !== null && once !== undefined && wish.untilBar > once ? wish.untilBar : once;
  const times = lengthTicks && until ? (time.barStartTicks(until) - atTicks) / lengthTicks : 1;
  const upbeat = item.sound.type === 'recording' ? item.sound.upbeatSeconds : item.sound.upbeatTicks;
  const [from, to] = [item.key, fit.key];
  const tempo = tempoChange(item, fit, place);
  return (
    <>
      <h3 className="with-field">
        Fit to {song.title}
        <Switch
          size="small"
          aria-label="Fit to the song"
          checked={fits}
          onChange={(on) => setWish({ key: on, tempo: on })}
        />
      </h3>
      {isPitched(item) && (
        <div className="row">
          <Checkbox checked={wish.key} onChange={(event) => setWish({ key: event.target.checked })}>
            Key
          </Checkbox>
          <span className="numbers">
            {!from || !place.key
              ? 'not known'
              : fit.semitones !== 0
                ? `${keyName(from)} → ${keyName(to!)}, ${semitonesText(fit.semitones)}`
                : `${keyName(from)}${fit.relative ? ', relative key' : ''}`}
          </span>
        </div>
      )}
      <div className="row">
        <Checkbox checked={wish.tempo} onChange={(event) => setWish({ tempo: event.target.checked })}>
          Tempo
        </Checkbox>
        <span className="numbers">
          {item.bpm === null
            ? 'free, keeps its own'
            : tempo
              ? `${tempo}${fit.longer === 1 ? '' : `, ${longerText(fit.longer)}`}`
              : fit.countedBpm === null && item.sound.type === 'recording'
                ? 'keeps its own'
                : 'as it is'}
        </span>
      </div>
      {upbeat > 0 && (
        <div className="row">
          <Checkbox
            checked={wish.upbeatBefore}
            onChange={(event) => setWish({ upbeatBefore: event.target.checked })}
          >
            Starts on the bar
          </Checkbox>
          <span className="quiet numbers">
            {item.sound.type === 'recording'
              ? `upbeat of ${item.sound.upbeatSeconds.toFixed(2)} s before it`
              : 'upbeat before it'}
          </span>
        </div>
      )}
      <OverChordsPicture item={item} fit={fit} atTicks={atTicks} />
      <h3>Put it in</h3>
      <div className="row">
        <span className="label">Part</span>
        <Select
          size="small"
          aria-label="Part it goes into"
          style={{ width: 172 }}
          value={into?.id ?? 'new'}
          onChange={(id) => setWish({ partId: id === 'new' ? null : id })}
          options={[
            { value: 'new', label: 'a new part' },
            ...parts.map(({ id, name, mark, colour }) => ({
              value: id,
              label: (
                <span className="named-part">
                  <span className="mark small" style={{ background: partColours[colour] }}>
                    {mark}
                  </span>
                  {name}
                </span>
              ),
            })),
          ]}
        />
      </div>
      <div className="row">
        <span className="label">At</span>
        <span>
          <Input
            size="small"
            aria-label="Where it goes"
            className="numbers"
            style={{ width: 92 }}
            value={typed ?? formatPosition(time.barAt(atTicks))}
            status={typed !== null && !parsePosition(typed) ? 'error' : undefined}
            title="Bar.beat.tick; empty: the loop’s start, or the bar of the playhead"
            onChange={(event) => setTyped(event.target.value)}
            onPressEnter={(event) => event.currentTarget.blur()}
            onBlur={() => {
              if (typed === null) return;
              const position = parsePosition(typed);
              if (typed.trim() === '') setWish({ atTicks: null });
              else if (position) setWish({ atTicks: Math.max(0, Math.round(time.ticksOf(position))) });
              setTyped(null);
            }}
          />
        </span>
      </div>
      {why && <p className="quiet small right">{why}</p>}
      {once !== undefined && (
        <div className="row">
          <span className="label">Fill to bar</span>
          <span className="numbers">
            <InputNumber
              size="small"
              aria-label="Fill to bar"
              style={{ width: 70 }}
              min={once}
              max={99_999}
              precision={0}
              value={wish.untilBar}
              placeholder={String(once)}
              onChange={(untilBar) => setWish({ untilBar })}
            />{' '}
            <span className="quiet">{timesText(times)}</span>
          </span>
        </div>
      )}
      <p className="quiet small">{saysText(item, fit)}</p>
      <Button type="primary" block onClick={onPutIn}>
        {until === undefined
          ? `Put in at bar ${bar}`
          : until - 1 > bar
            ? `Put in, bars ${bar}–${until - 1}`
            : `Put in, bar ${bar}`}
      </Button>
    </>
  );
}

function timesText(times: number): string {
  const count = Math.round(10 * times) / 10;
  if (count <= 1) return 'once';
  return count === 2 ? 'twice' : `${count} times`;
}

/** What the copy in the song will say of itself. */
function saysText(item: ShelfItem, fit: ItemFit): string {
  if (!fit.key || !item.key || fit.semitones === 0) return '';
  return `In the song it will say ${keyName(fit.key)}. The one on the shelf stays in ${keyName(item.key)}.`;
}
