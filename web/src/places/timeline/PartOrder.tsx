/** The order of rows, changed by dragging their marks; Alt + ↑ ↓ does the same by key. */
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
/** The same object for good: with another every row would be painted again. */
const POINTER = { activationConstraint: { distance: CLICK_PIXELS } };

interface OrderProps {
  /** Of parts and groups, as they are shown. */
  rowIds: readonly string[];
  /** A row goes where another stands. */
  onMove(movingId: string, overId: string): void;
  children: ReactNode;
}

export function PartOrder({ rowIds, onMove, children }: OrderProps) {
  const sensors = useSensors(useSensor(PointerSensor, POINTER));
  const names = rowIds.join(' ');
  // The same list as long as the order is: rows look at it.
  const ids = useMemo(() => names.split(' '), [names]);
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      modifiers={MODIFIERS}
      onDragEnd={({ active, over }) => {
        if (over && over.id !== active.id) onMove(String(active.id), String(over.id));
      }}
    >
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        {children}
      </SortableContext>
    </DndContext>
  );
}

/** What makes a row one that can be moved, and what of it is taken by the hand. */
export function useRowOrder(rowId: string) {
  const { setNodeRef, setActivatorNodeRef, listeners, transform, transition, isDragging } = useSortable({
    id: rowId,
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
