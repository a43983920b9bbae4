/** What an item is, to be corrected by hand. */
import { useState } from 'react';
import { DeleteOutlined, PlusOutlined, SoundOutlined } from '@ant-design/icons';
import { Button, Input, InputNumber, Select, Tag } from 'antd';
import type { ChangeShelfItem } from '@plundra/contract';
import {
  isPitched,
  LONGEST_TAG,
  MAX_TAGS,
  SHELF_KINDS,
  type ShelfItem,
  type ShelfMetre,
} from '@plundra/core/shelf';
import { beatsPerMinute, MATERIALS, quartersPerMinute } from '@plundra/core/song';
import { KeySelect } from '../../song/KeySelect.tsx';
import { metreText } from './fitText.ts';

interface Props {
  item: ShelfItem;
  onChange(change: ChangeShelfItem): void;
  onTakeOff(): void;
  onListen(): void;
}

const METRES: ShelfMetre[] = [
  { beats: 2, unit: 4 },
  { beats: 3, unit: 4 },
  { beats: 4, unit: 4 },
  { beats: 5, unit: 4 },
  { beats: 7, unit: 4 },
  { beats: 6, unit: 8 },
  { beats: 9, unit: 8 },
  { beats: 12, unit: 8 },
];

export function ItemFacts({ item, onChange, onTakeOff, onListen }: Props) {
  const metres = METRES.some((each) => metreText(each) === metreText(item.metre))
    ? METRES
    : [...METRES, item.metre];
  const whole = item.sound.type === 'recording' && item.sound.offsetSeconds === 0;
  return (
    <>
      <Input
        key={item.name}
        aria-label="Name on the shelf"
        defaultValue={item.name}
        maxLength={120}
        style={{ fontWeight: 600 }}
        onBlur={(event) => {
          const name = event.target.value.trim();
          if (name && name !== item.name) onChange({ name });
        }}
        onPressEnter={(event) => event.currentTarget.blur()}
      />
      <div className="row">
        <span className="label">Kind</span>
        <Select
          size="small"
          aria-label="Kind of item"
          style={{ width: 150 }}
          value={item.kind}
          disabled={item.sound.type === 'notes'}
          options={SHELF_KINDS.filter((kind) => (kind === 'phrase') === (item.sound.type === 'notes')).map(
            (value) => ({
              value,
              label: value === 'loop' ? 'loop, goes round' : value,
            }),
          )}
          onChange={(kind) => onChange({ kind })}
        />
      </div>
      <div className="row">
        <span className="label">Material</span>
        <Select
          size="small"
          aria-label="Material of the item"
          style={{ width: 150 }}
          value={item.material}
          options={MATERIALS.map((value) => ({ value, label: value }))}
          onChange={(material) => onChange({ material })}
        />
      </div>
      {isPitched(item) && (
        <div className="row">
          <span className="label">Key it was played in</span>
          <KeySelect
            label="Key it was played in"
            value={item.key}
            none="not known"
            noneShort="not known"
            width={122}
            onChoose={(key) => onChange({ key })}
          />
        </div>
      )}
      <div className="row">
        <span className="label">Tempo</span>
        <span style={{ display: 'flex', gap: 6 }}>
          <InputNumber
            key={`${item.bpm}-${metreText(item.metre)}`}
            size="small"
            aria-label="Tempo of the item"
            className="numbers"
            style={{ width: 96 }}
            min={20}
            max={300}
            placeholder="free"
            {...(item.bpm !== null && {
              defaultValue: Math.round(1000 * beatsPerMinute(item.bpm, item.metre)) / 1000,
            })}
            suffix="bpm"
            onBlur={(event) => {
              const text = event.target.value.trim().replace(',', '.');
              const typed = Number(text);
              if (text === '') return item.bpm !== null && onChange({ bpm: null });
              const bpm = quartersPerMinute(Math.max(20, Math.min(300, typed)), item.metre);
              if (Number.isFinite(bpm) && Math.abs(bpm - (item.bpm ?? 0)) > 1e-3) onChange({ bpm });
            }}
            onPressEnter={(event) => (event.target as HTMLElement).blur()}
          />
          <Select
            size="small"
            aria-label="Metre of the item"
            style={{ width: 72 }}
            value={metreText(item.metre)}
            options={metres.map((each) => ({ value: metreText(each), label: metreText(each) }))}
            onChange={(text) => {
              const metre = metres.find((each) => metreText(each) === text);
              if (metre) onChange({ metre });
            }}
          />
        </span>
      </div>
      {item.bpm !== null && (
        <div className="row">
          <span className="label" />
          <span style={{ display: 'flex', gap: 6 }}>
            <Button
              size="small"
              title="It goes half as fast as it says"
              disabled={item.bpm < 40}
              onClick={() => onChange({ bpm: item.bpm! / 2 })}
            >
              ÷ 2
            </Button>
            <Button
              size="small"
              title="It goes twice as fast as it says"
              disabled={item.bpm > 200}
              onClick={() => onChange({ bpm: item.bpm! * 2 })}
            >
              × 2
            </Button>
          </span>
        </div>
      )}
      <p className="quiet small">{foundText(item)}</p>
      <Tags item={item} onChange={onChange} />
      <div className="row wraps">
        {whole && (
          <Button
            size="small"
            icon={<SoundOutlined />}
            loading={item.listening === true}
            title="Finds kind, key and tempo by listening, instead of what stands here"
            onClick={onListen}
          >
            Listen again
          </Button>
        )}
        <Button
          size="small"
          icon={<DeleteOutlined />}
          // Songs keep what they took from it, and it can be put back: nothing is lost, so nobody is asked.
          onClick={onTakeOff}
        >
          Take off the shelf
        </Button>
      </div>
    </>
  );
}

function foundText(item: ShelfItem): string {
  const { keyConfidence, tempoConfidence, listening, heardNothing, fromSong, shipped } = item;
  if (listening) return 'It is being listened to: kind, key and tempo come in a moment.';
  if (heardNothing === 'broke off')
    return 'Listening broke off before it found key and tempo. Listen again, or set them by hand.';
  if (heardNothing)
    return `Listening found no steady beat${isPitched(item) ? ' and no key' : ''}. Set what you know by hand.`;
  const found = [
    keyConfidence !== undefined && `key sure to ${Math.round(100 * keyConfidence)} %`,
    tempoConfidence !== undefined && `tempo sure to ${Math.round(100 * tempoConfidence)} %`,
  ].filter(Boolean);
  if (found.length > 0) return `Found by listening: ${found.join(', ')}.`;
  if (shipped) return 'Comes with Plundra.';
  return fromSong
    ? `From ${fromSong}, with its key and tempo there.`
    : 'As it was said by hand or by its file.';
}

function Tags({ item, onChange }: Pick<Props, 'item' | 'onChange'>) {
  const [typing, setTyping] = useState<string | null>(null);
  const finish = () => {
    const tag = typing?.trim();
    setTyping(null);
    if (tag && !item.tags.includes(tag)) onChange({ tags: [...item.tags, tag] });
  };
  return (
    <div className="tags">
      {item.tags.map((tag) => (
        <Tag
          key={tag}
          closable={{ 'aria-label': `Remove the tag ${tag}` }}
          onClose={(event) => {
            event.preventDefault();
            onChange({ tags: item.tags.filter((each) => each !== tag) });
          }}
        >
          {tag}
        </Tag>
      ))}
      {typing !== null ? (
        <Input
          size="small"
          autoFocus
          aria-label="New tag"
          maxLength={LONGEST_TAG}
          style={{ width: 100 }}
          value={typing}
          onChange={(event) => setTyping(event.target.value)}
          onBlur={finish}
          onPressEnter={finish}
        />
      ) : (
        item.tags.length < MAX_TAGS && (
          <Button size="small" type="dashed" icon={<PlusOutlined />} onClick={() => setTyping('')}>
            tag
          </Button>
        )
      )}
    </div>
  );
}
