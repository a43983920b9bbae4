/** The shelf without a song. */
import { useMemo } from 'react';
import { Select } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router';
import { keyName } from '@plundra/core/theory';
import { api } from '../../api/client.ts';
import { useFileDrop } from '../../controls/useFileDrop.ts';
import { Mark } from '../../theme/Mark.tsx';
import { ItemSheet } from './ItemSheet.tsx';
import { ShelfMain } from './ShelfMain.tsx';
import { useAddToShelf } from './useAddToShelf.tsx';
import { useHearAlone } from './useHearAlone.ts';
import { useHearKey } from './useHearKey.ts';
import { useShelf } from './useShelf.ts';
import { useShelfView } from './useShelfView.ts';
import { useTakeOff } from './useTakeOff.tsx';

const NO_WISH = { key: false, tempo: false };
const LEVEL_DB = -4;

export function ShelfPage() {
  const navigate = useNavigate();
  const shelf = useShelf();
  const view = useShelfView(shelf.items, null, NO_WISH);
  const alone = useHearAlone(LEVEL_DB);
  const addFiles = useAddToShelf();
  const takeOff = useTakeOff(shelf.takeOff, shelf.putBack);
  useHearKey(view.chosen?.item, alone.hear);
  const { dropping, dropProps } = useFileDrop(addFiles);
  const { data: songs } = useQuery({ queryKey: ['songs'], queryFn: api.songs });
  const options = useMemo(
    () =>
      (songs ?? []).map(({ id, title, key }) => ({
        value: id,
        label: key ? `${title} · ${keyName(key)}` : title,
      })),
    [songs],
  );
  return (
    <div className="shelf-page" {...dropProps}>
      <header className="top-line">
        <Mark />
        <span className="title">Plundra</span>
        <nav className="page-links" aria-label="Pages">
          <Link to="/">Songs</Link>
          <span aria-current="page">Shelf</span>
        </nav>
        <span className="gap" />
        <span className="quiet">Hear with</span>
        <Select
          aria-label="Song to hear it with"
          placeholder="a song, to fit and put in"
          style={{ width: 260 }}
          showSearch={{ optionFilterProp: 'label' }}
          options={options}
          notFoundContent="No songs yet"
          value={null}
          onChange={(id: string) => void navigate(`/songs/${id}/shelf`)}
        />
      </header>
      <main className="place">
        <ShelfMain
          shelf={shelf}
          view={view}
          place={null}
          hearingId={alone.itemId}
          hear={alone.hear}
          onAdd={addFiles}
          foot={null}
        />
        {view.chosen && (
          <ItemSheet
            key={view.chosen.item.id}
            item={view.chosen.item}
            shelf={shelf}
            onTakeOff={takeOff}
            onClose={() => view.choose(null)}
          />
        )}
      </main>
      {dropping && (
        <div className="drop-hint">Drop recordings (WAV, FLAC, MP3, OGG) or MIDI files on the shelf</div>
      )}
    </div>
  );
}
