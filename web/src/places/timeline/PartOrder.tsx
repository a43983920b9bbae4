/** The order of parts, changed by dragging their marks; Alt + ↑ ↓ does the same by key. */
import { memo, useMemo, type ReactNode } from 'react';
import { closestCenter, DndContext, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { restrictToVerticalAxis } from '@dnd-kit/modifiers';
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import type { Part } from '@plundra/core/song';
import { partColours } from '../../theme/tokens.ts';

/** Nearer than this it was a click. */
const CLICK_PIXELS = 4;
const MODIFIERS = [restrictToVerticalAxis];

interface OrderProps {
  parts: readonly Part[];
  onMove(part: Part, index: number): void;
  children: ReactNode;
}

export function PartOrder({ parts, onMove, children }: OrderProps) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: CLICK_PIXELS } }));
  const names = parts.map(({ id }) => id).join(' ');
  // The same list as long as the order is: rows look at it.
  const ids = useMemo(() => names.split(' '), [names]);
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      modifiers={MODIFIERS}
      onDragEnd={({ active, over }) => {
        const part = parts.find(({ id }) => id === active.id);
        const index = parts.findIndex(({ id }) => id === over?.id);
        if (part && index >= 0 && parts[index] !== part) onMove(part, index);
      }}
    >
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        {children}
      </SortableContext>
    </DndContext>
  );
}

/** What makes a row one that can be moved, and what of it is taken by the hand. */
export function usePartOrder(partId: string) {
  const { setNodeRef, setActivatorNodeRef, listeners, transform, transition, isDragging } = useSortable({
    id: partId,
  });
  const style = {
    transform: CSS.Translate.toString(transform),
    transition,
    ...(isDragging && { zIndex: 1, position: 'relative' as const, boxShadow: '0 4px 14px #0003' }),
  };
  return { setNodeRef, setActivatorNodeRef, listeners, style };
}

interface MarkProps {
  part: Pick<Part, 'mark' | 'colour' | 'name'>;
  /** Of the row that it moves. */
  hold: (element: HTMLElement | null) => void;
  listeners: ReturnType<typeof useSortable>['listeners'];
}

export const PartMark = memo(function PartMark({ part, hold, listeners }: MarkProps) {
  return (
    <span
      ref={hold}
      className="mark grip"
      style={{ background: partColours[part.colour] }}
      title={`Drag to move ${part.name} up or down (Alt + ↑ ↓)`}
      aria-hidden
      {...listeners}
    >
      {part.mark}
    </span>
  );
});
