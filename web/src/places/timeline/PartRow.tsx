/** A part on the Timeline: mixer controls and its picture. */
import { memo, useEffect, useLayoutEffect, useMemo, useRef, useState, type PointerEvent } from 'react';
import type { Part, RecordingPart, TimeMap } from '@plundra/core/song';
import { prepareSurface, type SurfaceSize } from '../../canvas/surface.ts';
import type { TimeView } from '../../canvas/view.ts';
import { useRecordings } from '../../song/useRecording.ts';
import type { SongValue } from '../../song/SongContext.tsx';
import { colours } from '../../theme/tokens.ts';
import { PartHead, stripOf } from './PartHead.tsx';
import { useRowOrder } from './PartOrder.tsx';
import { groupStyle } from './groupStyle.ts';
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
  onOpen(partId: string, passageId?: string): void;
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
        {...stripOf(part)}
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
  const [size, setSize] = useState<SurfaceSize>();
  const takes = part.kind === 'recording' ? part.takes : NO_TAKES;
  const hashes = useMemo(() => [...new Set(takes.map(({ recordingHash }) => recordingHash))], [takes]);
  const { known, error } = useRecordings(hashes);
  useLayoutEffect(() => {
    const element = canvas.current!;
    const observer = new ResizeObserver(([{ contentRect }]) =>
      setSize({ width: contentRect.width, height: contentRect.height }),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  // A song may have hundreds of parts, of which a few are in sight.
  const [inSight, setInSight] = useState(false);
  useEffect(() => {
    const observer = new IntersectionObserver(([entry]) => setInSight(entry.isIntersecting), {
      rootMargin: '100px',
    });
    observer.observe(canvas.current!);
    return () => observer.disconnect();
  }, []);
  useEffect(() => {
    if (!inSight || !size) return;
    const surface = prepareSurface(canvas.current, undefined, size);
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
      onDoubleClick={(event) => onOpen(part.id, hitOf(event)?.passage.id)}
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
