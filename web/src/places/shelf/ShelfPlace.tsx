/** The shelf with a song open: what is on it is heard with the song, fits it, and goes into it. */
import { useCallback, useEffect, useMemo, useState } from 'react';
import { Checkbox, Slider } from 'antd';
import { useNavigate } from 'react-router';
import { songPlace, type ShelfItem } from '@plundra/core/shelf';
import type { PassagePlace } from '@plundra/core/song';
import { useActions } from '../../song/actions.ts';
import { useSong } from '../../song/SongContext.tsx';
import { ItemSheet } from './ItemSheet.tsx';
import { FIRST_WISH, PutInFields, usePlaceNow, type PutInWish } from './PutInFields.tsx';
import { ShelfMain } from './ShelfMain.tsx';
import { useAddToShelf } from './useAddToShelf.tsx';
import { useHearAlone } from './useHearAlone.ts';
import { useHearKey } from './useHearKey.ts';
import { useHearWithSong } from './useHearWithSong.ts';
import { usePutIn } from './usePutIn.tsx';
import { useShelf } from './useShelf.ts';
import { useShelfView } from './useShelfView.ts';
import { useTakeOff } from './useTakeOff.tsx';

const FIRST_LEVEL_DB = -4;
const LEAST_LEVEL_DB = -30;
const MOST_LEVEL_DB = 6;

export function ShelfPlace() {
  const { song, engine } = useSong();
  const navigate = useNavigate();
  const shelf = useShelf();
  const [wish, setWishState] = useState<PutInWish>(FIRST_WISH);
  const setWish = useCallback(
    (change: Partial<PutInWish>) => setWishState((old) => ({ ...old, ...change })),
    [],
  );
  const [levelDb, setLevelDb] = useState(FIRST_LEVEL_DB);
  const [withSong, setWithSong] = useState(true);
  const { atTicks } = usePlaceNow(wish);
  const place = useMemo(() => songPlace(song, atTicks), [song, atTicks]);
  const view = useShelfView(shelf.items, place, wish);
  const inSong = useHearWithSong(wish, levelDb, withSong ? (view.chosen?.item ?? null) : null);
  const alone = useHearAlone(levelDb);
  const addFiles = useAddToShelf();
  const show = useCallback(
    (places: readonly PassagePlace[]) =>
      void navigate(`/songs/${song.id}/timeline`, { state: { select: places } }),
    [navigate, song.id],
  );
  const putIn = usePutIn(levelDb, show, 'when asked');
  const takeOff = useTakeOff(shelf.takeOff, shelf.putBack);

  const hear = useCallback(
    (item: ShelfItem) => {
      if (withSong) {
        alone.stop();
        inSong.hear(item);
      } else {
        inSong.end();
        engine.stop();
        alone.hear(item);
      }
    },
    [withSong, alone, inSong, engine],
  );
  // One of both: what is heard alone ends when the song plays.
  const { stop: stopAlone } = alone;
  useEffect(
    () =>
      engine.subscribe(() => {
        if (engine.getState().playing) stopAlone();
      }),
    [engine, stopAlone],
  );
  const { chosen } = view;
  // What is heard goes where it is heard.
  const heardAtTicks = inSong.itemId === chosen?.item.id ? inSong.atTicks : null;
  const take = useCallback(() => {
    if (!chosen) return;
    alone.stop();
    // The song plays on, with the item that is in it now.
    void putIn(chosen.item, wish, wish.atTicks ?? heardAtTicks ?? atTicks).then(inSong.end);
  }, [chosen, inSong.end, alone, wish, heardAtTicks, atTicks, putIn]);
  useHearKey(chosen?.item, hear);
  const itemName = chosen?.item.name;
  useActions(
    'shelf',
    useMemo(
      () => [
        {
          label: itemName ? `Put in ${itemName}` : 'Put in the chosen item',
          words: 'insert loop add place drop sample',
          keys: 'Enter',
          disabled: !itemName,
          run: take,
        },
      ],
      [itemName, take],
    ),
  );
  return (
    <>
      <ShelfMain
        shelf={shelf}
        view={view}
        place={place}
        hearingId={inSong.itemId ?? alone.itemId}
        hear={hear}
        onTake={take}
        onAdd={addFiles}
        foot={
          <>
            <Checkbox
              checked={withSong}
              onChange={(event) => {
                inSong.stop();
                alone.stop();
                setWithSong(event.target.checked);
              }}
            >
              Hear with the song, from the next bar
            </Checkbox>
            <span className="quiet">Loudness</span>
            <Slider
              style={{ width: 90 }}
              ariaLabelForHandle="Loudness of what is heard"
              min={LEAST_LEVEL_DB}
              max={MOST_LEVEL_DB}
              step={0.5}
              value={levelDb}
              onChange={setLevelDb}
              tooltip={{ formatter: (value) => `${value} dB` }}
            />
          </>
        }
      />
      {chosen && (
        <ItemSheet
          key={chosen.item.id}
          item={chosen.item}
          shelf={shelf}
          onTakeOff={takeOff}
          onClose={() => view.choose(null)}
        >
          {!chosen.item.listening && chosen.fit && (
            <PutInFields
              item={chosen.item}
              fit={chosen.fit}
              place={place}
              heardAtTicks={heardAtTicks}
              wish={wish}
              setWish={setWish}
              onPutIn={take}
            />
          )}
        </ItemSheet>
      )}
    </>
  );
}
