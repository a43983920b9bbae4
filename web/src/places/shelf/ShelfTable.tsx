/** The shelf as a table: what each item is, how it fits the song, and a button to hear it. */
import { memo, useEffect, useRef, useState } from 'react';
import { CaretRightFilled, CheckOutlined, PauseOutlined, WarningOutlined } from '@ant-design/icons';
import { Spin, Table, type TableProps } from 'antd';
import type { ShelfFilter, ShelfItem, SongPlace } from '@plundra/core/shelf';
import { keyName, sameKey } from '@plundra/core/theory';
import { partColours } from '../../theme/tokens.ts';
import { EmptyShelf } from './EmptyShelf.tsx';
import { aboutText, bpmText, fitText, lengthText } from './fitText.ts';
import { ItemPicture } from './ItemPicture.tsx';
import { MATERIAL_COLOURS } from './partOfItem.ts';
import type { Order, ShelfRow, ShelfSort } from './useShelfView.ts';

type Column = NonNullable<TableProps<ShelfRow>['columns']>[number];

interface Props {
  rows: readonly ShelfRow[];
  /** All that lies on the shelf, and what is on its way there. */
  itemCount: number;
  arriving: number;
  setFilter(change: Partial<ShelfFilter>): void;
  place: SongPlace | null;
  order: Order;
  setOrder(order: Order): void;
  chosenId: string | null;
  choose(id: string | null): void;
  hearingId: string | null;
  hear(item: ShelfItem): void;
  /** Beside the Timeline: only what it is called and how it fits. */
  compact?: boolean;
  /** Enter, or two clicks; absent where there is no song. */
  onTake?(): void;
}

const HEAD_PIXELS = 40;
/** In less there is no room for columns. */
const SMALL_PIXELS = 640;
/** What is dragged from the shelf to the Timeline: the id of an item. */
export const DRAGGED_ITEM = 'application/x-plundra-item';

/** Painted again only when what it shows is another: not while a search is typed. */
export const ShelfTable = memo(function ShelfTable({
  rows,
  itemCount,
  arriving,
  setFilter,
  place,
  order,
  setOrder,
  chosenId,
  choose,
  hearingId,
  hear,
  compact = false,
  onTake,
}: Props) {
  const box = useRef<HTMLDivElement>(null);
  const table = useRef<React.ComponentRef<typeof Table>>(null);
  const [size, setSize] = useState({ width: 900, height: 400 });
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const observer = new ResizeObserver(([{ contentRect }]) =>
      setSize({ width: Math.floor(contentRect.width), height: Math.floor(contentRect.height) }),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  const move = (by: number) => {
    const at = rows.findIndex(({ item }) => item.id === chosenId);
    const next = rows[Math.max(0, Math.min(rows.length - 1, at < 0 ? 0 : at + by))];
    if (!next) return;
    choose(next.item.id);
    table.current?.scrollTo({ key: next.item.id });
  };
  const head = (title: string, by: ShelfSort) => ({
    title,
    sorter: true,
    sortDirections: ['ascend', 'descend', 'ascend'] as ('ascend' | 'descend')[],
    sortOrder: order.by === by ? (order.down ? ('descend' as const) : ('ascend' as const)) : null,
    key: by,
    showSorterTooltip: false,
  });
  const wide = size.width > 860;
  const small = compact || size.width < SMALL_PIXELS;
  const hearColumn: Column = {
    key: 'hear',
    width: 46,
    render: (_, { item }) => <HearButton item={item} on={hearingId === item.id} onHear={() => hear(item)} />,
  };
  const nameAndFit: Column = {
    key: 'item',
    render: (_, { item, fit }) => (
      <div className="two-lines">
        <strong title={item.name}>{item.name}</strong>
        <span className="quiet" title={aboutText(item)}>
          {[
            item.material === 'other' ? item.kind : item.material,
            lengthText(item),
            fit && place && fitText(item, fit, place).text,
          ]
            .filter(Boolean)
            .join(' · ')}
        </span>
      </div>
    ),
  };
  const columns: Column[] = small
    ? [hearColumn, nameAndFit]
    : [
        hearColumn,
        {
          ...head('Name', 'name'),
          width: wide ? 190 : 150,
          render: (_, { item }) => (
            <div className="two-lines">
              <strong title={item.name}>{item.name}</strong>
              <span className="quiet" title={aboutText(item)}>
                {aboutText(item)}
              </span>
            </div>
          ),
        },
        ...(wide
          ? [
              {
                title: 'Sound',
                key: 'sound',
                width: 200,
                render: (_: unknown, { item }: ShelfRow) => (
                  <ItemPicture sound={item.sound} colour={partColours[MATERIAL_COLOURS[item.material]]} />
                ),
              },
            ]
          : []),
        { ...head('Kind', 'kind'), width: 92, render: (_, { item }) => item.kind },
        {
          ...head('Key', 'key'),
          width: 100,
          render: (_, { item, fit }) => <KeyCell item={item} to={fit?.key ?? null} />,
        },
        {
          ...head('Tempo', 'tempo'),
          width: 76,
          className: 'at-right',
          render: (_, { item }) =>
            item.listening ? (
              <span className="quiet">…</span>
            ) : item.bpm === null ? (
              <span className="quiet">free</span>
            ) : (
              <span className="numbers">{bpmText(item.bpm, item.metre)}</span>
            ),
        },
        {
          ...head('Length', 'length'),
          width: 78,
          className: 'at-right',
          render: (_, { item }) => <span className="numbers">{lengthText(item)}</span>,
        },
        ...(place
          ? [
              {
                ...head('Fits', 'fits'),
                render: (_: unknown, { item, fit }: ShelfRow) =>
                  item.listening || !fit ? (
                    <span className="quiet">is being listened to</span>
                  ) : (
                    <FitCell {...fitText(item, fit, place)} />
                  ),
              },
            ]
          : [{ key: 'rest' }]),
      ];
  return (
    <div
      className="shelf-table"
      ref={box}
      tabIndex={0}
      role="group"
      aria-label="Shelf"
      onKeyDown={(event) => {
        if (event.ctrlKey || event.metaKey || event.altKey) return;
        const item = rows.find((row) => row.item.id === chosenId)?.item;
        // A button that has the keyboard is pressed by Enter itself.
        const onButton = (event.target as HTMLElement).closest('button') !== null;
        if (event.key === 'ArrowDown') move(1);
        else if (event.key === 'ArrowUp') move(-1);
        else if (event.key === 'Enter' && item && onTake && !onButton) onTake();
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
    >
      <Table
        ref={table}
        virtual
        showHeader={!small}
        size="small"
        rowKey={({ item }) => item.id}
        dataSource={rows as ShelfRow[]}
        columns={columns}
        pagination={false}
        scroll={{ x: size.width, y: Math.max(100, size.height - (small ? 0 : HEAD_PIXELS)) }}
        rowClassName={({ item }) => (item.id === chosenId ? 'chosen' : '')}
        onChange={(_pages, _filters, sorter) => {
          const { columnKey, order: way } = Array.isArray(sorter) ? sorter[0] : sorter;
          setOrder({ by: columnKey as ShelfSort, down: way === 'descend' });
        }}
        onRow={({ item }) => ({
          onClick: () => choose(item.id),
          onDoubleClick: () => onTake?.(),
          draggable: compact,
          onDragStart: (event) => event.dataTransfer.setData(DRAGGED_ITEM, item.id),
          'aria-selected': item.id === chosenId,
        })}
        locale={{
          emptyText: <EmptyShelf itemCount={itemCount} arriving={arriving} setFilter={setFilter} />,
        }}
      />
    </div>
  );
});

/** A plain button: a list that is searched makes many of them with each key. */
function HearButton({ item, on, onHear }: { item: ShelfItem; on: boolean; onHear(): void }) {
  return (
    <button
      type="button"
      className={on ? 'hear on' : 'hear'}
      aria-label={on ? `Stop ${item.name}` : `Hear ${item.name}`}
      aria-pressed={on}
      onClick={(event) => {
        event.stopPropagation();
        onHear();
      }}
    >
      {on ? <PauseOutlined /> : <CaretRightFilled />}
    </button>
  );
}

/** The key it was played in; where it will be in another, that too. */
function KeyCell({ item, to }: { item: ShelfItem; to: ShelfItem['key'] }) {
  if (item.listening) return <Spin size="small" aria-label="It is being listened to" />;
  if (!item.key) return <span className="quiet">–</span>;
  if (!to || sameKey(to, item.key)) return keyName(item.key);
  return (
    <div className="two-lines">
      <strong>{keyName(to)}</strong>
      <span className="quiet">from {keyName(item.key)}</span>
    </div>
  );
}

function FitCell({ text, warning, changes }: ReturnType<typeof fitText>) {
  if (warning)
    return (
      <span className="fit-warning">
        <WarningOutlined /> {text}
      </span>
    );
  if (text === 'as it is')
    return (
      <span className="fits">
        <CheckOutlined /> {text}
      </span>
    );
  return <span className={changes ? 'numbers' : 'quiet'}>{text}</span>;
}
