/** The sections of the song over its ruler: named, made longer and shorter, looped, selected, and moved or copied with all in them. */
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { App, Input, Popover } from 'antd';
import {
  EditError,
  formatPosition,
  passagesWithinTicks,
  withoutSpares,
  planSectionCopy,
  planSectionMove,
  putSection,
  resizedSection,
  sectionEndTicks,
  sectionFrom,
  sectionsOf,
  songEndTicks,
  type PassagePlace,
  type Section,
} from '@plundra/core/song';
import { followPointer } from '../../canvas/followPointer.ts';
import { secondsOf, xOf, type TimeView } from '../../canvas/view.ts';
import { Button } from '../../controls/index.tsx';
import { useSong } from '../../song/SongContext.tsx';
import { colours } from '../../theme/tokens.ts';
import { snapped, type Snap } from './passageTools.ts';

export const BAND_PIXELS = 27;
const EDGE_PIXELS = 8;
/** Nearer than this it was a click. */
const CLICK_PIXELS = 4;
const createId = () => crypto.randomUUID();

interface Props {
  view: TimeView;
  snap: Snap;
  select(places: readonly PassagePlace[]): void;
}

export function SectionsBand({ view, snap, select }: Props) {
  const { song, time, engine, apply } = useSong();
  const { message } = App.useApp();
  const [open, setOpen] = useState<string | null>(null);
  const [dragged, setDragged] = useState<Section[] | null>(null);
  /** A section that is moved, and where it would begin. */
  const [moving, setMoving] = useState<{ id: string; startTicks: number } | null>(null);
  const justMoved = useRef(false);
  const kept = sectionsOf(song);
  const sections = dragged ?? kept;
  const endOfSong = songEndTicks(song, time);
  const endOf = (section: Section) =>
    sectionEndTicks(sections, section, Math.max(endOfSong, section.startTicks + 3840));
  const xAt = (ticks: number) => xOf(view, time.secondsAt(ticks));
  const set = (label: string, next: Section[]) =>
    apply(label.slice(0, 200), { type: 'song.set', patch: { sections: next } });

  const add = (event: { clientX: number; currentTarget: HTMLElement }) => {
    const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
    const ticks = Math.max(0, Math.round(time.ticksAt(Math.max(0, secondsOf(view, x)))));
    const startTicks = time.barStartTicks(time.barAt(ticks).bar);
    const known = sectionFrom(kept, startTicks);
    const id = known?.id ?? createId();
    if (!known)
      set(
        'Add a section',
        putSection(kept, startTicks, 'Section', () => id),
      );
    setOpen(id);
  };
  const drag = (section: Section, edge: 'start' | 'end', event: PointerEvent<HTMLElement>) => {
    if (event.button !== 0) return;
    event.preventDefault();
    const { clientX: fromX } = event;
    const from = edge === 'start' ? section.startTicks : endOf(section);
    let next: Section[] | null = null;
    followPointer({
      moved(to) {
        const seconds = time.secondsAt(from) + (to.clientX - fromX) / view.pixelsPerSecond;
        const ticks = snapped(snap === 'auto' ? 'bar' : snap, view, time, time.ticksAt(Math.max(0, seconds)));
        next = resizedSection(kept, section.id, edge, ticks);
        setDragged(next);
      },
      dropped: () => next && set(`Resize ${section.name}`, next),
      ended: () => setDragged(null),
    });
  };
  const remove = (section: Section) => {
    set(
      `Remove the section ${section.name}`,
      kept.filter(({ id }) => id !== section.id),
    );
    setOpen(null);
  };
  const copy = (section: Section) => {
    try {
      apply(`Copy ${section.name}`, planSectionCopy(song, section, endOf(section), createId));
    } catch (error) {
      if (!(error instanceof EditError)) throw error;
      void message.warning(error.message, 6);
    }
    setOpen(null);
  };
  const moveTo = (section: Section, startTicks: number) => {
    try {
      const edit = planSectionMove(song, section, startTicks, createId);
      if (edit) apply(`Move ${section.name}`, edit);
    } catch (error) {
      if (!(error instanceof EditError)) throw error;
      void message.warning(error.message, 6);
    }
  };
  const dragWhole = (section: Section, event: PointerEvent<HTMLElement>) => {
    if (event.button !== 0) return;
    const { clientX: fromX } = event;
    let startTicks: number | null = null;
    justMoved.current = false;
    followPointer({
      moved(to) {
        if (startTicks === null && Math.abs(to.clientX - fromX) < CLICK_PIXELS) return;
        const seconds = time.secondsAt(section.startTicks) + (to.clientX - fromX) / view.pixelsPerSecond;
        const ticks = time.ticksAt(Math.max(0, seconds));
        startTicks = snapped(snap === 'auto' ? 'bar' : snap, view, time, ticks);
        justMoved.current = true;
        setMoving({ id: section.id, startTicks });
      },
      dropped: () => startTicks !== null && moveTo(section, startTicks),
      ended: () => setMoving(null),
    });
  };
  /** ← and → move the end by a bar, with Shift the start, with Alt the whole section with everything in it. */
  const onKey = (section: Section, event: KeyboardEvent) => {
    const along = { ArrowRight: 1, ArrowLeft: -1 }[event.key] ?? 0;
    if (along !== 0 && event.altKey) {
      const bar = time.barAt(section.startTicks).bar + along;
      if (bar >= 1) moveTo(section, time.barStartTicks(bar));
    } else if (along !== 0) {
      const edge = event.shiftKey ? 'start' : 'end';
      const at = edge === 'start' ? section.startTicks : endOf(section);
      const bar = time.barAt(at).bar + along;
      if (bar >= 1)
        set(`Resize ${section.name}`, resizedSection(kept, section.id, edge, time.barStartTicks(bar)));
    } else if (event.key === 'Delete' || event.key === 'Backspace') remove(section);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };

  return (
    <div className="part-row sections-band" style={{ height: BAND_PIXELS, minHeight: 0 }}>
      <div className="part-head" style={{ padding: '3px 12px', color: colours.quietInk, fontSize: 13 }}>
        Sections
      </div>
      <div
        className="part-picture"
        data-testid="sections"
        title="A double click begins a section at its bar"
        onDoubleClick={add}
      >
        {sections.map((section) => {
          const [left, right] = [xAt(section.startTicks), xAt(endOf(section))];
          return (
            <span key={section.id}>
              <Popover
                open={open === section.id}
                trigger="click"
                destroyOnHidden
                placement="bottom"
                onOpenChange={(isOpen) => {
                  // Letting go after a drag is a click too.
                  if (!justMoved.current) setOpen(isOpen ? section.id : null);
                  justMoved.current = false;
                }}
                content={
                  <SectionFields
                    section={section}
                    bars={`${formatPosition(time.barAt(section.startTicks))} to ${formatPosition(time.barAt(endOf(section)))}`}
                    onName={(name) =>
                      set(`Section ${name}`, putSection(kept, section.startTicks, name, createId))
                    }
                    onLoop={() => {
                      engine.setLoop({
                        startSeconds: time.secondsAt(section.startTicks),
                        endSeconds: time.secondsAt(endOf(section)),
                      });
                      setOpen(null);
                    }}
                    onSelect={() => {
                      select(
                        withoutSpares(song, passagesWithinTicks(song, section.startTicks, endOf(section))),
                      );
                      setOpen(null);
                    }}
                    onCopy={() => copy(section)}
                    onRemove={() => remove(section)}
                  />
                }
              >
                <button
                  className={`section${moving?.id === section.id ? ' moving' : ''}`}
                  aria-label={`Section ${section.name}`}
                  title={`Drag to move ${section.name} with everything in it; a click for more`}
                  style={{
                    left: moving?.id === section.id ? xAt(moving.startTicks) : left,
                    width: Math.max(6, right - left - 1),
                  }}
                  onPointerDown={(event) => dragWhole(section, event)}
                  onKeyDown={(event) => onKey(section, event)}
                >
                  {section.name}
                </button>
              </Popover>
              <span
                className="edge"
                style={{ left: left - EDGE_PIXELS / 2 }}
                onPointerDown={(event) => drag(section, 'start', event)}
              />
              <span
                className="edge"
                data-testid={`end of ${section.name}`}
                style={{ left: right - EDGE_PIXELS + 1 }}
                onPointerDown={(event) => drag(section, 'end', event)}
              />
            </span>
          );
        })}
      </div>
    </div>
  );
}

interface FieldProps {
  section: Section;
  bars: string;
  onName(name: string): void;
  onLoop(): void;
  onSelect(): void;
  onCopy(): void;
  onRemove(): void;
}

function SectionFields({ section, bars, onName, onLoop, onSelect, onCopy, onRemove }: FieldProps) {
  return (
    <div className="dialog-fields" style={{ width: 250 }}>
      <Input
        key={section.name}
        aria-label="Name of the section"
        autoFocus
        maxLength={60}
        defaultValue={section.name}
        onFocus={(event) => event.target.select()}
        onBlur={(event) => {
          const name = event.target.value.trim();
          if (name && name !== section.name) onName(name);
        }}
        onPressEnter={(event) => event.currentTarget.blur()}
      />
      <span className="quiet numbers">{bars}</span>
      <Button size="small" onClick={onLoop}>
        Loop it
      </Button>
      <Button size="small" onClick={onSelect}>
        Select what begins in it
      </Button>
      <Button
        size="small"
        title="Puts in as many bars and copies passages, chords and the name; what sounds across the edges is cut"
        onClick={onCopy}
      >
        Copy behind itself, with everything in it
      </Button>
      <Button size="small" onClick={onRemove}>
        Remove the name
      </Button>
    </div>
  );
}
