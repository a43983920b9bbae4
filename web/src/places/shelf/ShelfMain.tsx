/** Search, table and foot of the shelf, the same outside of a song and inside. */
import type { ReactNode } from 'react';
import { Button, Result, Skeleton } from 'antd';
import type { ShelfItem, SongPlace } from '@plundra/core/shelf';
import { ShelfTable } from './ShelfTable.tsx';
import { ShelfTools } from './ShelfTools.tsx';
import type { useShelf } from './useShelf.ts';
import type { useShelfView } from './useShelfView.ts';

interface Props {
  shelf: ReturnType<typeof useShelf>;
  view: ReturnType<typeof useShelfView>;
  place: SongPlace | null;
  hearingId: string | null;
  hear(item: ShelfItem): void;
  onTake?(): void;
  onAdd(files: readonly File[]): void;
  /** How what is heard is heard. */
  foot: ReactNode;
}

export function ShelfMain({ shelf, view, place, hearingId, hear, onTake, onAdd, foot }: Props) {
  const { items, arriving, loading, error, retry } = shelf;
  return (
    <div className="main shelf">
      <ShelfTools filter={view.filter} setFilter={view.setFilter} onAdd={onAdd} />
      {loading && <Skeleton active paragraph={{ rows: 8 }} style={{ padding: 20 }} />}
      {error && (
        <Result
          status="warning"
          title="The shelf could not be opened"
          subTitle={error.message}
          extra={
            <Button type="primary" onClick={retry}>
              Try again
            </Button>
          }
        />
      )}
      {!loading && !error && (
        <ShelfTable
          rows={view.shown}
          itemCount={items.length}
          arriving={arriving}
          setFilter={view.setFilter}
          place={place}
          order={view.order}
          setOrder={view.setOrder}
          chosenId={view.chosen?.item.id ?? null}
          choose={view.choose}
          hearingId={hearingId}
          hear={hear}
          {...(onTake && { onTake })}
        />
      )}
      <div className="shelf-foot">
        {!loading && !error && (
          <span className="quiet">
            {view.shown.length === items.length
              ? `${items.length} ${items.length === 1 ? 'item' : 'items'}`
              : `${view.shown.length} of ${items.length} shown`}
            {arriving > 0 && ` · ${arriving} more are being put here`} · drop recordings or MIDI here to keep
            them
          </span>
        )}
        <span style={{ flex: 1 }} />
        {foot}
      </div>
    </div>
  );
}
