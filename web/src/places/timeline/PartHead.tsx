/** What stands before the picture of a part: its name, takes, mute, solo, level and pan. */
import { memo, useState, type ComponentProps } from 'react';
import { CaretDownOutlined, CaretRightOutlined } from '@ant-design/icons';
import { Slider } from 'antd';
import type { Part } from '@plundra/core/song';
import { CutName } from '../../controls/CutName.tsx';
import { TipButton } from '../../controls/index.tsx';
import type { SongValue } from '../../song/SongContext.tsx';
import { levelText } from './levelText.ts';
import { PartMark } from './PartOrder.tsx';

type Strip = Pick<Part, 'id' | 'name' | 'mark' | 'colour' | 'mute' | 'solo' | 'levelDb' | 'pan'>;

interface Props extends Strip, Pick<ComponentProps<typeof PartMark>, 'hold' | 'listeners'> {
  /** How many takes its table has, 0: none, and whether it is open. */
  takeCount: number;
  takesOpen: boolean;
  onTakes(partId: string, open: boolean): void;
  onOpen(partId: string): void;
  apply: SongValue['apply'];
}

/** What the head shows of a part. */
export function stripOf({ id, name, mark, colour, mute, solo, levelDb, pan }: Part): Strip {
  return { id, name, mark, colour, mute, solo, levelDb, pan };
}

/** Painted again only when something of it changes, not with every edit of the part's passages. */
export const PartHead = memo(function PartHead({
  id,
  name,
  mark,
  colour,
  mute,
  solo,
  levelDb,
  pan,
  takeCount,
  takesOpen,
  onTakes,
  onOpen,
  apply,
  hold,
  listeners,
}: Props) {
  const set = (label: string, patch: Partial<Strip>) =>
    apply(`${label} ${name}`, { type: 'part.set', partId: id, patch });
  const [draggedDb, setDraggedDb] = useState<number | null>(null);
  const [draggedPan, setDraggedPan] = useState<number | null>(null);
  const level = draggedDb ?? levelDb;
  const place = draggedPan ?? pan;
  return (
    <div className="part-head">
      <div className="names">
        <PartMark part={{ name, mark, colour }} hold={hold} listeners={listeners} />
        <button className="name" aria-label={name} onClick={() => onOpen(id)} title={`Open ${name} in Notes`}>
          <CutName name={name} />
        </button>
        {takeCount > 0 && (
          <button
            className="takes-toggle numbers"
            aria-expanded={takesOpen}
            aria-label={`${takeCount} takes of ${name}`}
            title={takesOpen ? 'Close the take table' : 'Open the take table'}
            onClick={() => onTakes(id, !takesOpen)}
          >
            {takesOpen ? <CaretDownOutlined /> : <CaretRightOutlined />} {takeCount} takes
          </button>
        )}
        <TipButton
          tip="Mute (M)"
          size="small"
          aria-label={`Mute ${name}`}
          aria-pressed={mute}
          type={mute ? 'primary' : 'default'}
          onClick={() => set(mute ? 'Unmute' : 'Mute', { mute: !mute })}
        >
          M
        </TipButton>
        <TipButton
          tip="Solo (S)"
          size="small"
          aria-label={`Solo ${name}`}
          aria-pressed={solo}
          type={solo ? 'primary' : 'default'}
          onClick={() => set(solo ? 'Unsolo' : 'Solo', { solo: !solo })}
        >
          S
        </TipButton>
      </div>
      <div className="sliders">
        <Slider
          ariaLabelForHandle={`Level of ${name}`}
          style={{ flex: 2 }}
          min={-40}
          max={6}
          step={0.5}
          value={level}
          tooltip={{ formatter: (value) => `${levelText(value ?? 0)} dB` }}
          onChange={setDraggedDb}
          onChangeComplete={(value) => {
            setDraggedDb(null);
            set('Set level of', { levelDb: value });
          }}
        />
        <span className="quiet numbers" style={{ width: 44, textAlign: 'right', fontSize: 12 }}>
          {levelText(level)} dB
        </span>
        <Slider
          ariaLabelForHandle={`Pan of ${name}`}
          style={{ flex: 1 }}
          min={-1}
          max={1}
          step={0.05}
          included={false}
          value={place}
          tooltip={{ formatter: (value) => panText(value ?? 0) }}
          onChange={setDraggedPan}
          onChangeComplete={(value) => {
            setDraggedPan(null);
            set('Pan', { pan: value });
          }}
        />
        <span className="quiet numbers" style={{ width: 26, fontSize: 12 }}>
          {panText(place)}
        </span>
      </div>
    </div>
  );
});

/** "L 40", "mid", "R 15". */
function panText(pan: number): string {
  const share = Math.round(Math.abs(pan) * 100);
  return share === 0 ? 'mid' : `${pan < 0 ? 'L' : 'R'} ${share}`;
}
