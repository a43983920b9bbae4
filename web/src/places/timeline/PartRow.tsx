/** A part on the Timeline: mixer controls and its picture. */
import {
  memo,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type ComponentProps,
  type PointerEvent,
} from 'react';
import { CaretDownOutlined, CaretRightOutlined } from '@ant-design/icons';
import { Button, Slider, Tooltip } from 'antd';
import type { Part, RecordingPart, TimeMap } from '@plundra/core/song';
import { CutName } from '../../controls/CutName.tsx';
import { prepareSurface } from '../../canvas/surface.ts';
import type { TimeView } from '../../canvas/view.ts';
import { useRecordings } from '../../song/useRecording.ts';
import type { SongValue } from '../../song/SongContext.tsx';
import { colours } from '../../theme/tokens.ts';
import { PartMark, useRowOrder } from './PartOrder.tsx';
import { groupStyle } from './groupStyle.ts';
import { levelText } from './levelText.ts';
import { drawPassages, type Pictures } from './drawPassages.ts';
import { cursorOf, passageAt, placesIn, type Edges } from './passageTools.ts';

interface PictureProps {
  part: Part;
  view: TimeView;
  time: TimeMap;
  /** Names of its passages that are selected. */
  selected: ReadonlySet<string>;
  edges: Edges;
  pictures: Pictures;
  onOpen(part: Part, passageId?: string): void;
  onPassage(part: Part, event: PointerEvent<HTMLElement>): void;
}

interface Props extends PictureProps {
  chosen: boolean;
  audible: boolean;
  /** How many takes its table has, 0: none, and whether it is open. */
  takeCount: number;
  takesOpen: boolean;
  onTakes(partId: string, open: boolean): void;
  /** The colour of the group it stands in; undefined: none. */
  groupColour: number | undefined;
  apply: SongValue['apply'];
  /** `head`: by its name and controls, not by its picture. */
  onChoose(partId: string, head?: boolean): void;
}

/** One part: its head, and the picture of its passages. Of many rows only those are painted again whose part changed. */
export const PartRow = memo(function PartRow({
  chosen,
  audible,
  groupColour,
  takeCount,
  takesOpen,
  onTakes,
  apply,
  onChoose,
  ...picture
}: Props) {
  const { part, onOpen } = picture;
  const { setNodeRef, style, setActivatorNodeRef, listeners } = useRowOrder(part.id);
  return (
    <div
      ref={setNodeRef}
      className={`part-row${chosen ? ' chosen' : ''}${groupColour === undefined ? '' : ' grouped'}`}
      onPointerDown={(event) =>
        onChoose(part.id, event.currentTarget.firstElementChild?.contains(event.target as Node))
      }
      // The part whose control has the focus is the one that keys act on.
      onFocus={() => onChoose(part.id)}
      data-testid="part-row"
      data-part-id={part.id}
      style={{
        ...style,
        opacity: audible ? 1 : 0.6,
        ...(groupColour !== undefined && groupStyle(groupColour)),
      }}
    >
      <PartHead
        part={part}
        takeCount={takeCount}
        takesOpen={takesOpen}
        onTakes={onTakes}
        apply={apply}
        onOpen={onOpen}
        hold={setActivatorNodeRef}
        listeners={listeners}
      />
      <PartPicture {...picture} />
    </div>
  );
});

type HeadProps = Pick<PictureProps, 'part' | 'onOpen'> &
  Pick<Props, 'takeCount' | 'takesOpen' | 'onTakes'> &
  Pick<SongValue, 'apply'> &
  Pick<ComponentProps<typeof PartMark>, 'hold' | 'listeners'>;

/** Name, mute, solo, level and pan; painted again only when its part changes, not while the view moves. */
const PartHead = memo(function PartHead({
  part,
  takeCount,
  takesOpen,
  onTakes,
  apply,
  onOpen,
  hold,
  listeners,
}: HeadProps) {
  const set = (label: string, patch: Partial<Pick<Part, 'mute' | 'solo' | 'levelDb' | 'pan'>>) =>
    apply(`${label} ${part.name}`, { type: 'part.set', partId: part.id, patch });
  const [levelDb, setLevelDb] = useState<number | null>(null);
  const [pan, setPan] = useState<number | null>(null);
  const level = levelDb ?? part.levelDb;
  const place = pan ?? part.pan;
  return (
    <div className="part-head">
      <div className="names">
        <PartMark part={part} hold={hold} listeners={listeners} />
        <button
          className="name"
          aria-label={part.name}
          onClick={() => onOpen(part)}
          title={`Open ${part.name} in Notes`}
        >
          <CutName name={part.name} />
        </button>
        {takeCount > 0 && (
          <button
            className="takes-toggle numbers"
            aria-expanded={takesOpen}
            aria-label={`${takeCount} takes of ${part.name}`}
            title={takesOpen ? 'Close the take table' : 'Open the take table'}
            onClick={() => onTakes(part.id, !takesOpen)}
          >
            {takesOpen ? <CaretDownOutlined /> : <CaretRightOutlined />} {takeCount} takes
          </button>
        )}
        <Tooltip title="Mute (M)">
          <Button
            size="small"
            aria-label={`Mute ${part.name}`}
            aria-pressed={part.mute}
            type={part.mute ? 'primary' : 'default'}
            onClick={() => set(part.mute ? 'Unmute' : 'Mute', { mute: !part.mute })}
          >
            M
          </Button>
        </Tooltip>
        <Tooltip title="Solo (S)">
          <Button
            size="small"
            aria-label={`Solo ${part.name}`}
            aria-pressed={part.solo}
            type={part.solo ? 'primary' : 'default'}
            onClick={() => set(part.solo ? 'Unsolo' : 'Solo', { solo: !part.solo })}
          >
            S
          </Button>
        </Tooltip>
      </div>
      <div className="sliders">
        <Slider
          ariaLabelForHandle={`Level of ${part.name}`}
          style={{ flex: 2 }}
          min={-40}
          max={6}
          step={0.5}
          value={level}
          tooltip={{ formatter: (value) => `${levelText(value ?? 0)} dB` }}
          onChange={setLevelDb}
          onChangeComplete={(value) => {
            setLevelDb(null);
            set('Set level of', { levelDb: value });
          }}
        />
        <span className="quiet numbers" style={{ width: 44, textAlign: 'right', fontSize: 12 }}>
          {levelText(level)} dB
        </span>
        <Slider
          ariaLabelForHandle={`Pan of ${part.name}`}
          style={{ flex: 1 }}
          min={-1}
          max={1}
          step={0.05}
          included={false}
          value={place}
          tooltip={{ formatter: (value) => panText(value ?? 0) }}
          onChange={setPan}
          onChangeComplete={(value) => {
            setPan(null);
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

/** Painted again only when what it shows changes: its row also looks at what is dragged. */
const PartPicture = memo(function PartPicture({
  part,
  view,
  time,
  selected,
  edges,
  pictures,
  onOpen,
  onPassage,
}: PictureProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState('');
  const takes = part.kind === 'recording' ? part.takes : NO_TAKES;
  const hashes = useMemo(() => [...new Set(takes.map(({ recordingHash }) => recordingHash))], [takes]);
  const { known, error } = useRecordings(hashes);
  useLayoutEffect(() => {
    const element = canvas.current!;
    const observer = new ResizeObserver(() => setSize(`${element.clientWidth} × ${element.clientHeight}`));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  // A song may have hundreds of parts, of which a few are in sight.
  const [inSight, setInSight] = useState(true);
  useEffect(() => {
    const observer = new IntersectionObserver(([entry]) => setInSight(entry.isIntersecting), {
      rootMargin: '100px',
    });
    observer.observe(canvas.current!);
    return () => observer.disconnect();
  }, []);
  useEffect(() => {
    if (!inSight) return;
    const surface = prepareSurface(canvas.current);
    if (surface) drawPassages(surface, { part, view, time, recordings: known, selected, pictures });
  }, [part, view, size, time, known, selected, pictures, inSight]);
  const hitOf = (event: { clientX: number; clientY: number; currentTarget: HTMLElement }) => {
    const box = event.currentTarget.getBoundingClientRect();
    return passageAt(part, view, time, event.clientX - box.left, event.clientY - box.top);
  };
  return (
    <div
      className="part-picture"
      onPointerDown={(event) => onPassage(part, event)}
      onPointerMove={(event) => {
        event.currentTarget.style.cursor = cursorOf(hitOf(event), edges);
      }}
      onDoubleClick={(event) => onOpen(part, hitOf(event)?.passage.id)}
      title="Double-click opens a passage in Notes"
    >
      <canvas ref={canvas} style={{ cursor: 'inherit' }} aria-label={describe(part)} role="img" />
      {error && (
        <span style={{ position: 'absolute', left: 12, top: 26, color: colours.error }}>{error.message}</span>
      )}
    </div>
  );
});

const NO_TAKES: RecordingPart['takes'] = [];

/** "Lead voice: 3 passages". */
function describe(part: Part): string {
  const count = placesIn([part]).length;
  return `${part.name}: ${count} ${count === 1 ? 'passage' : 'passages'}`;
}
