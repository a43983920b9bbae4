/** A group on the Timeline: what is heard of its parts together, and, folded, a small picture of them all. */
import { memo, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { CaretDownOutlined, CaretRightOutlined } from '@ant-design/icons';
import { Button, Slider, Tooltip } from 'antd';
import { recordingsOf, type Group, type Part, type TimeMap } from '@plundra/core/song';
import { prepareSurface } from '../../canvas/surface.ts';
import type { TimeView } from '../../canvas/view.ts';
import { CutName } from '../../controls/CutName.tsx';
import { useRecordings } from '../../song/useRecording.ts';
import { drawStrip } from './drawPassages.ts';
import { groupStyle } from './groupStyle.ts';
import { levelText } from './levelText.ts';
import { useRowOrder } from './PartOrder.tsx';

const GROUP_PIXELS = 40;

interface Props {
  group: Group;
  parts: readonly Part[];
  folded: boolean;
  chosen: boolean;
  audible: boolean;
  view: TimeView;
  time: TimeMap;
  onChoose(groupId: string): void;
  onFold(groupId: string): void;
  set(group: Group, label: string, patch: Partial<Group>): void;
}

export const GroupRow = memo(function GroupRow(props: Props) {
  const { group, parts, folded, chosen, audible, view, time, onChoose, onFold, set } = props;
  const { setNodeRef, style, setActivatorNodeRef, listeners } = useRowOrder(group.id);
  const [levelDb, setLevelDb] = useState<number | null>(null);
  const level = levelDb ?? group.levelDb;
  const count = `${parts.length} ${parts.length === 1 ? 'part' : 'parts'}`;
  return (
    <div
      ref={setNodeRef}
      className={`part-row group-row${chosen ? ' chosen' : ''}`}
      data-testid="group-row"
      onPointerDown={() => onChoose(group.id)}
      onFocus={() => onChoose(group.id)}
      style={{
        ...style,
        height: GROUP_PIXELS,
        opacity: audible ? 1 : 0.6,
        ...groupStyle(group.colour),
      }}
    >
      <div className="part-head">
        <div className="names">
          <button
            className="fold"
            aria-label={`${folded ? 'Unfold' : 'Fold'} ${group.name}`}
            aria-expanded={!folded}
            onClick={() => onFold(group.id)}
          >
            {folded ? <CaretRightOutlined /> : <CaretDownOutlined />}
          </button>
          <span
            ref={setActivatorNodeRef}
            className="name grip"
            title={`${group.name}, ${count}. Drag to move the group up or down (Alt + ↑ ↓)`}
            {...listeners}
          >
            <CutName name={group.name} />
          </span>
          <Slider
            ariaLabelForHandle={`Level of ${group.name}`}
            style={{ width: 56, margin: '6px 2px' }}
            min={-40}
            max={6}
            step={0.5}
            value={level}
            tooltip={{ formatter: (value) => `${levelText(value ?? 0)} dB` }}
            onChange={setLevelDb}
            onChangeComplete={(value) => {
              setLevelDb(null);
              set(group, 'Set level of', { levelDb: value });
            }}
          />
          <Tooltip title="Mute the group (M)">
            <Button
              size="small"
              aria-label={`Mute ${group.name}`}
              aria-pressed={group.mute}
              type={group.mute ? 'primary' : 'default'}
              onClick={() => set(group, group.mute ? 'Unmute' : 'Mute', { mute: !group.mute })}
            >
              M
            </Button>
          </Tooltip>
          <Tooltip title="Solo the group (S)">
            <Button
              size="small"
              aria-label={`Solo ${group.name}`}
              aria-pressed={group.solo}
              type={group.solo ? 'primary' : 'default'}
              onClick={() => set(group, group.solo ? 'Unsolo' : 'Solo', { solo: !group.solo })}
            >
              S
            </Button>
          </Tooltip>
        </div>
      </div>
      <div className="part-picture">
        {folded && <FoldedPicture parts={parts} view={view} time={time} name={group.name} />}
      </div>
    </div>
  );
});

const MARGIN_PIXELS = 4;

/** Its parts one over another, each as small as they all fit. */
function FoldedPicture({
  parts,
  view,
  time,
  name,
}: Pick<Props, 'parts' | 'view' | 'time'> & { name: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [width, setWidth] = useState(0);
  const hashes = useMemo(() => [...new Set(parts.flatMap(recordingsOf))], [parts]);
  const { known } = useRecordings(hashes);
  useLayoutEffect(() => {
    const element = canvas.current!;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  useEffect(() => {
    const surface = prepareSurface(canvas.current);
    if (!surface) return;
    const height = (surface.height - 2 * MARGIN_PIXELS) / parts.length;
    parts.forEach((part, i) =>
      drawStrip(surface, { part, view, time, recordings: known }, MARGIN_PIXELS + i * height, height),
    );
  }, [parts, view, width, time, known]);
  return <canvas ref={canvas} role="img" aria-label={`${name}, folded: ${parts.length} parts`} />;
}
