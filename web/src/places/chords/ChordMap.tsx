/**
 * What else could stand in a place, as a map: rows by what a chord does, columns by how far the voices move from the
 * chord before. A click tries one, so that it is heard in its place with all parts that follow; a second click takes it.
 */
import { useEffect, useState } from 'react';
import { Button } from 'antd';
import { followsOf, suggestChords, type Suggestion } from '@plundra/core/arranging';
import { putChord } from '@plundra/core/song';
import { chordSymbol, type ChordFunction, type ChordOrNone, type Key } from '@plundra/core/theory';
import { ChordName, chordText } from '../../song/ChordName.tsx';
import { useSong } from '../../song/SongContext.tsx';
import type { ChordEditing } from './useChordEditing.ts';

const ROWS: ChordFunction[] = ['home', 'away', 'leading'];
/** Semitones that all voices together move, up to and including. */
const COLUMNS = [
  { upTo: 2, label: 'near' },
  { upTo: 5, label: 'further' },
  { upTo: Infinity, label: 'far' },
];
const IN_A_CELL = 4;
const createId = () => crypto.randomUUID();

interface Props extends Pick<ChordEditing, 'changes' | 'spans' | 'change'> {
  place: number;
  songKey: Key;
  hear(chord: ChordOrNone): void;
}

export function ChordMap({ changes, spans, place, songKey, change, hear }: Props) {
  const { song, time, engine, listen, setListen, setTried } = useSong();
  const [tried, setTriedSymbol] = useState<string | null>(null);
  const here = changes.find(({ startTicks }) => startTicks === place);
  const index = spans.findIndex(({ startTicks }) => startTicks >= place);
  const before = index < 0 ? spans.at(-1) : index > 0 ? spans[index - 1] : undefined;
  const after = spans.find(({ startTicks }) => startTicks > place);
  const found = suggestChords({
    key: songKey,
    before: before?.change.chord ?? null,
    here: here?.chord ?? null,
    after: after?.change.chord ?? null,
  });
  const chosen = found.find(({ chord }) => chordSymbol(chord) === tried);
  // The trial ends when the map closes, for another chord or another place.
  useEffect(() => () => setTried(null), [setTried]);
  const leave = () => {
    setTriedSymbol(null);
    setTried(null);
  };
  const pick = ({ chord }: Suggestion) => {
    const symbol = chordSymbol(chord);
    const put = putChord(changes, place, chord, createId);
    if (tried === symbol) {
      leave();
      change(`Chord ${chordText(chord)}`, put);
      return;
    }
    hear(chord);
    setTriedSymbol(symbol);
    setTried({ type: 'changes.put', ...put });
  };
  const playInPlace = () => {
    if (!song.parts.some(followsOf) && listen.chords.how === 'off')
      setListen({ chords: { ...listen.chords, how: 'with' } });
    const bar = Math.max(1, time.barAt(place).bar - 1);
    engine.seek(time.secondsAt(time.barStartTicks(bar)));
    if (!engine.getState().playing) void engine.play({ countInBars: 0 });
  };
  return (
    <>
      <h3>What else could work</h3>
      <p className="quiet">
        Near: the voices move little. Dashed: from outside the key. A click tries a chord, a second click
        takes it.
      </p>
      <div className="chord-map" role="group" aria-label="Chord map">
        <span />
        {COLUMNS.map(({ label }) => (
          <span key={label} className="chord-map-axis">
            {label}
          </span>
        ))}
        {ROWS.map((does) => [
          <span key={does} className="label">
            {does}
          </span>,
          ...COLUMNS.map(({ upTo, label }, column) => (
            <span className="chord-map-cell" key={`${does} ${label}`}>
              {found
                .filter(
                  (each) =>
                    each.does === does &&
                    each.movement <= upTo &&
                    (column === 0 || each.movement > COLUMNS[column - 1].upTo),
                )
                .slice(0, IN_A_CELL)
                .map((each) => (
                  <Button
                    key={chordSymbol(each.chord)}
                    size="small"
                    className={each.reasons[0] === 'in the key' ? undefined : 'from-elsewhere'}
                    type={tried === chordSymbol(each.chord) ? 'primary' : 'default'}
                    title={each.reasons.join(', ')}
                    onClick={() => pick(each)}
                  >
                    <ChordName chord={each.chord} />
                  </Button>
                ))}
            </span>
          )),
        ])}
      </div>
      {/* Below the map, so that nothing moves under the pointer between the clicks. */}
      <p className="quiet chord-map-note" aria-live="polite">
        {chosen
          ? `${chordText(chosen.chord)}: ${chosen.reasons.join(', ')}. Tried in its place; click again to take it.`
          : ''}
      </p>
      {chosen && (
        <div className="actions" style={{ marginTop: 0 }}>
          <Button onClick={playInPlace}>Hear it in its place</Button>
          <Button onClick={leave}>Leave it</Button>
        </div>
      )}
    </>
  );
}
