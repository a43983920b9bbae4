/** What was read, before it is taken: key, tempo, where boundaries go; then the song's chords or the recording's own. */
import { useState } from 'react';
import { Button, Checkbox, Segmented, Select } from 'antd';
import { createPassageTime, ownChordsOf, type ChordPull } from '@plundra/core/song';
import { keyName } from '@plundra/core/theory';
import { useSong } from '../../song/SongContext.tsx';
import { keysFound, type FoundChords, type ReadOver } from './chordSources.ts';
import { firstTempo, hasOwnFrame, type ReadTempo } from './readTempo.ts';
import type { FoundChordsUse, Taking } from './useFoundChords.ts';
import { FoundTempo } from './FoundTempo.tsx';

interface Props {
  found: FoundChords;
  use: FoundChordsUse;
  taking: Taking;
  /** Reads the same recordings over other beats. */
  onReadOver(over: ReadOver): void;
  /** The same over beats that were put right, or with the tempo that somebody typed. */
  onPutRight(tempo: ReadTempo, asPlayed: boolean): void;
  onNear(bpm: number): void;
  /** Something is being read. */
  busy: boolean;
  onDone(): void;
}

const PLACES: Record<ChordPull, string> = { beat: 'beats', bar: 'bar lines', off: '' };

export function FoundSheet({ found, use, taking, onReadOver, onPutRight, onNear, busy, onDone }: Props) {
  const { pull, setPull, tempo, setTempo } = use;
  const { song, time, apply } = useSong();
  const [keyIndex, setKeyIndex] = useState(0);
  const [withKey, setWithKey] = useState(song.key === null);
  /** Kept while it is not to become the song's. */
  const [offered, setOffered] = useState(() => firstTempo(found.tempo, found.asPlayed));
  const key = found.keys.at(keyIndex);
  const count = taking.changes.length;
  const doubtful = found.chords.filter(({ confidence }) => confidence < 0.8).length;
  const changesOfKey = found.keyChanges.slice(1);
  const take = () => {
    const edits = [...taking.edits];
    if (withKey && key)
      edits.push({ type: 'song.set', patch: keysFound(found, keyIndex, taking.time ?? time) });
    apply(`Take chords of ${found.name}`, { type: 'batch', edits });
    onDone();
  };
  const keep = () => {
    if (!found.owner) return;
    apply(`Keep chords of ${found.name} as its own`, {
      type: 'take.chords',
      ...found.owner,
      chords: ownChordsOf(found.chords),
    });
    onDone();
  };
  return (
    <aside className="side-sheet" aria-label="Chords that were read">
      <h2>Read from {found.name}</h2>
      {count === 0 || taking.changes.every(({ chord }) => !chord) ? (
        <>
          <p>
            No chords were found in {found.name}: nothing in it sounds as harmony. Read another recording, or
            several together.
          </p>
          <Button block onClick={onDone}>
            Close
          </Button>
        </>
      ) : (
        <>
          <p className="quiet">
            The sheet shows what was read. {count} {count === 1 ? 'chord' : 'chords'}, {doubtful} doubtful.
            Nothing is changed until it is taken.
          </p>
          {key && (
            <div className="row">
              <span className="label">Key</span>
              <Select
                aria-label="Key that was read"
                size="small"
                style={{ width: 172 }}
                value={keyIndex}
                options={found.keys.map((each, i) => ({
                  value: i,
                  label: `${keyName(each.key)}, ${Math.round(100 * each.confidence)} %`,
                }))}
                onChange={setKeyIndex}
              />
            </div>
          )}
          {key && (
            <label className="row">
              <span className="label">As the key of the song</span>
              <Checkbox checked={withKey} onChange={(event) => setWithKey(event.target.checked)} />
            </label>
          )}
          {changesOfKey.map(({ startSeconds, key: next }) => (
            <p className="quiet" key={startSeconds}>
              From bar {barAt(found, startSeconds, time)} on in {keyName(next)}.
            </p>
          ))}
          {found.over && hasOwnFrame(song) && (
            <>
              <div className="row">
                <span className="label">Beats</span>
                <Segmented<ReadOver>
                  size="small"
                  aria-label="Beats that it was read over"
                  disabled={busy}
                  value={found.tempo?.known ? 'song' : 'own'}
                  options={[
                    { value: 'song', label: 'The song’s' },
                    { value: 'own', label: 'As heard' },
                  ]}
                  onChange={onReadOver}
                />
              </div>
              {found.over === 'fitting' && !found.tempo?.known && (
                <p className="quiet">It does not seem to be played to the song’s beats.</p>
              )}
            </>
          )}
          {offered !== null && (
            <>
              <FoundTempo
                found={found}
                tempo={found.tempo!}
                busy={busy}
                onPutRight={onPutRight}
                onNear={onNear}
                onChange={(next) => {
                  if (!next) return;
                  setOffered(next);
                  if (tempo) setTempo(next);
                }}
              />
              <label className="row">
                <span className="label">As tempo and metre of the song</span>
                <Checkbox
                  checked={tempo !== null}
                  onChange={(event) => setTempo(event.target.checked ? offered : null)}
                />
              </label>
              {tempo && (
                <p className="quiet">
                  Recordings, and notes made from them, move together so that the first bar begins on a bar
                  line. Other notes keep their bars.
                </p>
              )}
            </>
          )}
          <h3>Boundaries</h3>
          <Segmented<ChordPull>
            size="small"
            aria-label="Boundaries"
            block
            value={pull}
            options={[
              { value: 'beat', label: 'Beats' },
              { value: 'bar', label: 'Bar lines' },
              { value: 'off', label: 'As played' },
            ]}
            onChange={setPull}
          />
          <p className="quiet numbers" role="status">
            {pull === 'off'
              ? 'Every boundary stays where it was played.'
              : taking.moved === 0
                ? `Every boundary lies on ${PLACES[pull]} already.`
                : `${taking.moved} of ${taking.boundaries} boundaries move to ${PLACES[pull]}${tempo ? ' of the new tempo' : ''}, furthest ${Math.round(1000 * taking.furthestSeconds)} ms.`}
          </p>
          <div className="found-actions">
            <Button block type="primary" onClick={take}>
              Take as the song’s chords
            </Button>
            {found.owner && (
              <Button block onClick={keep}>
                Keep as the recording’s own
              </Button>
            )}
            <Button block type="text" onClick={onDone}>
              Leave it
            </Button>
          </div>
        </>
      )}
    </aside>
  );
}

function barAt(found: FoundChords, seconds: number, time: ReturnType<typeof useSong>['time']): number {
  const { toSong } = createPassageTime(found.windows[0], time);
  return time.barAt(Math.round(time.ticksAt(Math.max(0, toSong(seconds))))).bar;
}
