/** The shelf beside the Timeline: found, heard with the song, and dragged into it. */
import { useCallback, useEffect, useMemo, useState } from 'react';
import { CloseOutlined } from '@ant-design/icons';
import { Button, Checkbox, Skeleton } from 'antd';
import { useNavigate } from 'react-router';
import { songPlace } from '@plundra/core/shelf';
import type { PassagePlace } from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';
import { FIRST_WISH, usePlaceNow } from './PutInFields.tsx';
import { ShelfTable } from './ShelfTable.tsx';
import { ShelfTools } from './ShelfTools.tsx';
import { useAddToShelf } from './useAddToShelf.tsx';
import { useHearKey } from './useHearKey.ts';
import { useHearWithSong } from './useHearWithSong.ts';
import { usePutIn } from './usePutIn.tsx';
import { useShelf } from './useShelf.ts';
import { useShelfView } from './useShelfView.ts';

/** What was dropped on the Timeline. */
export interface DroppedItem {
  itemId: string;
  atTicks: number;
  /** Null: a new part. */
  partId: string | null;
}

interface Props {
  dropped: DroppedItem | null;
  /** It was put in, or could not be. */
  onDropDone(): void;
  select(places: readonly PassagePlace[]): void;
  onClose(): void;
}

const LEVEL_DB = -4;

export function ShelfPanel({ dropped, onDropDone, select, onClose }: Props) {
  const { song } = useSong();
  const navigate = useNavigate();
  const shelf = useShelf();
  const [fits, setFits] = useState(true);
  const wish = useMemo(() => ({ ...FIRST_WISH, key: fits, tempo: fits }), [fits]);
  const { atTicks } = usePlaceNow(wish);
  const place = useMemo(() => songPlace(song, atTicks), [song, atTicks]);
  const view = useShelfView(shelf.items, place, wish);
  const hearing = useHearWithSong(wish, LEVEL_DB, view.chosen?.item ?? null);
  const addFiles = useAddToShelf();
  const putIn = usePutIn(LEVEL_DB, select, 'at once');
  const { chosen } = view;

  const take = useCallback(() => {
    if (!chosen) return;
    const at = hearing.itemId === chosen.item.id ? hearing.atTicks : null;
    void putIn(chosen.item, wish, at ?? atTicks).then(hearing.end);
  }, [chosen, hearing, putIn, wish, atTicks]);
  useHearKey(chosen?.item, hearing.hear);
  const { items } = shelf;
  const { end } = hearing;
  useEffect(() => {
    if (!dropped) return;
    onDropDone();
    const item = items.find(({ id }) => id === dropped.itemId);
    if (!item) return;
    void putIn(item, { ...wish, partId: dropped.partId }, dropped.atTicks).then(end);
  }, [dropped, onDropDone, items, end, putIn, wish]);
  return (
    <aside className="side-sheet shelf-panel" aria-label="Shelf">
      <div className="item-head">
        <h2>Shelf</h2>
        <span style={{ flex: 1 }} />
        <Button size="small" type="link" onClick={() => void navigate('../shelf')}>
          Open the whole shelf
        </Button>
        <Button
          type="text"
          size="small"
          aria-label="Close the shelf"
          icon={<CloseOutlined />}
          onClick={onClose}
        />
      </div>
      <ShelfTools narrow filter={view.filter} setFilter={view.setFilter} onAdd={addFiles} />
      {shelf.loading && <Skeleton active />}
      {shelf.error && (
        <p>
          {shelf.error.message}{' '}
          <Button size="small" onClick={shelf.retry}>
            Try again
          </Button>
        </p>
      )}
      {!shelf.loading && !shelf.error && (
        <ShelfTable
          compact
          rows={view.shown}
          itemCount={items.length}
          arriving={shelf.arriving}
          setFilter={view.setFilter}
          place={place}
          order={view.order}
          setOrder={view.setOrder}
          chosenId={chosen?.item.id ?? null}
          choose={view.choose}
          hearingId={hearing.itemId}
          hear={hearing.hear}
          onTake={take}
        />
      )}
      <div className="panel-foot">
        <Checkbox checked={fits} onChange={(event) => setFits(event.target.checked)}>
          Fit key and tempo
        </Checkbox>
        <Button type="primary" size="small" disabled={!chosen} onClick={take}>
          Put in at the playhead
        </Button>
      </div>
      <p className="quiet small">Or drag it to where it goes.</p>
    </aside>
  );
}
