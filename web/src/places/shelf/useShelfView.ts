/** What of the shelf is shown, in which order, and which item is chosen. */
import { useCallback, useDeferredValue, useMemo, useState } from 'react';
import {
  EVERYTHING,
  filterItems,
  fitDistance,
  fitItem,
  itemBars,
  type FitWish,
  type ItemFit,
  type ShelfFilter,
  type ShelfItem,
  type SongPlace,
} from '@plundra/core/shelf';
import { tonicPitchClass } from '@plundra/core/theory';

export const SORTS = ['name', 'kind', 'key', 'tempo', 'length', 'fits', 'new'] as const;
export type ShelfSort = (typeof SORTS)[number];

export interface Order {
  by: ShelfSort;
  down: boolean;
}

export interface ShelfRow {
  item: ShelfItem;
  /** How it fits the song; undefined where there is none. */
  fit: ItemFit | undefined;
}

export function useShelfView(items: readonly ShelfItem[], place: SongPlace | null, wish: FitWish) {
  const [filter, setFilter] = useState<ShelfFilter>(EVERYTHING);
  const [order, setOrder] = useState<Order>({ by: place ? 'fits' : 'new', down: false });
  const [chosenId, choose] = useState<string | null>(null);
  // Typing goes before the list.
  const wanted = useDeferredValue(filter);
  const rows = useMemo(
    () =>
      filterItems(items, wanted).map((item) => ({
        item,
        fit: place ? fitItem(item, place, wish) : undefined,
      })),
    [items, wanted, place, wish],
  );
  const shown = useMemo(() => sorted(rows, order), [rows, order]);
  const setPartOfFilter = useCallback(
    (change: Partial<ShelfFilter>) => setFilter((old) => ({ ...old, ...change })),
    [],
  );
  return {
    filter,
    setFilter: setPartOfFilter,
    order,
    setOrder,
    shown,
    chosen: shown.find(({ item }) => item.id === chosenId) ?? null,
    choose,
  };
}

/** What is not known stands last, whichever way the rest goes. */
const LAST = Infinity;

const names = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });

function sorted(rows: readonly ShelfRow[], { by, down }: Order): ShelfRow[] {
  if (by === 'new') return [...rows];
  const direction = down ? -1 : 1;
  const byName = (a: ShelfRow, b: ShelfRow) => names.compare(a.item.name, b.item.name);
  if (by === 'name') return [...rows].sort((a, b) => direction * byName(a, b));
  if (by === 'kind')
    return [...rows].sort((a, b) => direction * names.compare(a.item.kind, b.item.kind) || byName(a, b));
  const valueOf = ({ item, fit }: ShelfRow): number => {
    if (by === 'tempo') return item.bpm ?? LAST;
    if (by === 'length') return itemBars(item) ?? LAST;
    if (by === 'fits') return fit ? fitDistance(fit) : 0;
    return item.key ? 2 * tonicPitchClass(item.key) + (item.key.mode === 'minor' ? 1 : 0) : LAST;
  };
  const values = new Map(rows.map((row) => [row, valueOf(row)]));
  return [...rows].sort((a, b) => {
    const [x, y] = [values.get(a)!, values.get(b)!];
    if (x === y) return byName(a, b);
    if (x === LAST || y === LAST) return x === LAST ? 1 : -1;
    return direction * (x - y);
  });
}
