/** Chords: the song's chords as a sheet; read, corrected, tried, played and made into parts. */
import { useMemo, useRef, useState } from 'react';
import { Segmented, Select } from 'antd';
import { chordEntriesOf, chordSpans } from '@plundra/core/song';
import { instrumentOptions } from '../../audio/instruments.ts';
import { useSong } from '../../song/SongContext.tsx';
import { withTried } from '../../song/triedSong.ts';
import { ChordKeys } from './ChordKeys.tsx';
import { ChordSheet } from './ChordSheet.tsx';
import { ChordSide } from './ChordSide.tsx';
import { Overflow } from '../../controls/Overflow.tsx';
import { FoundSheet } from './FoundSheet.tsx';
import { ReadTools } from './ReadTools.tsx';
import { barsToShow } from './sheetLayout.ts';
import { useChordsKeys } from './useChordsKeys.ts';
import { useChordEditing } from './useChordEditing.ts';
import {
  chordSources,
  keysFound,
  nearTempo,
  overBeats,
  recordingsToRead,
  type ReadOver,
  type RecordingsToRead,
} from './chordSources.ts';
import { useChordHearing } from './useChordHearing.ts';
import { useChordsReading } from './useChordsReading.ts';
import { useFoundChords } from './useFoundChords.ts';
import { usePlayingChange } from './usePlayingChange.ts';

const OCTAVES = [
  { value: -1, label: 'Octave lower' },
  { value: 0, label: 'As written' },
  { value: 1, label: 'Octave higher' },
];
const NONE: ReadonlySet<string> = new Set();

export function ChordsPlace() {
  const { song, time, listen, setListen, tried } = useSong();
  const hear = useChordHearing();
  const editing = useChordEditing(hear);
  const { changes, spans, sections, endTicks, selected, place } = editing;
  const [barsPerRow, setBarsPerRow] = useState(4);
  const [computer, setComputer] = useState(false);
  const reads = useFoundChords();
  const { found, show: setFound, taking } = reads;
  const shown = useMemo(() => {
    if (taking) return chordSpans(taking.changes, taking.endTicks);
    return tried ? chordSpans(chordEntriesOf(withTried(song, tried)), endTicks) : spans;
  }, [taking, tried, song, spans, endTicks]);
  const shownKeys = useMemo(
    () => (found && taking && found.keys.length > 0 ? keysFound(found, 0, taking.time ?? time) : song),
    [found, taking, song, time],
  );
  const triedId = (tried?.type === 'changes.put' && tried.put.at(0)?.id) || null;
  const field = useRef<HTMLInputElement | null>(null);
  const playingId = usePlayingChange(changes);
  const reading = useChordsReading(setFound);
  const lastBar = barsToShow(time, endTicks, place);
  useChordsKeys(!computer && !found, {
    ...editing,
    field,
    time,
    lastBar,
  });
  const scrolled = useRef<HTMLDivElement>(null);
  /** The same recordings, otherwise. */
  const readAgain = (otherwise: (asked: RecordingsToRead) => RecordingsToRead, over: ReadOver = 'own') => {
    const parts = chordSources(song).recordings.filter(({ id }) => found?.partIds?.includes(id));
    if (parts.length > 0) reading.read(otherwise(recordingsToRead(parts, time, over)));
  };

  return (
    <>
      <div className="main">
        <div className="chords-tools">
          <ReadTools reading={reading} onFound={setFound} empty={changes.length === 0} />
          <span style={{ flex: 1 }} />
          <span className="quiet hide-narrow">Chords</span>
          <Segmented<'off' | 'with' | 'alone'>
            size="small"
            aria-label="Hear the chords"
            value={listen.chords.how}
            options={[
              { value: 'off', label: 'Silent' },
              { value: 'with', label: 'Along' },
              { value: 'alone', label: 'Alone' },
            ]}
            onChange={(how) => setListen({ chords: { ...listen.chords, how } })}
          />
          <Overflow label="More of the chords">
            <Select
              aria-label="Sound of the chords"
              size="small"
              style={{ width: 130 }}
              value={listen.chords.program}
              options={instrumentOptions}
              onChange={(program) => setListen({ chords: { ...listen.chords, program } })}
            />
            <Select
              aria-label="Octave of the chords"
              title="Octave in which the chords are heard"
              size="small"
              style={{ width: 104 }}
              value={listen.chords.octaves}
              options={OCTAVES}
              onChange={(octaves) => setListen({ chords: { ...listen.chords, octaves } })}
            />
            <Segmented
              size="small"
              aria-label="Bars in a row"
              value={barsPerRow}
              options={[
                { value: 4, label: '4 bars' },
                { value: 8, label: '8' },
              ]}
              onChange={setBarsPerRow}
            />
          </Overflow>
        </div>
        <div
          className="chords-scroll"
          ref={scrolled}
          onClick={(event) => {
            // A click beside bars and chords chooses nothing.
            if (!(event.target as HTMLElement).closest('.chord-bar')) editing.forget();
          }}
        >
          {changes.length === 0 && !found && !reading.status && (
            <p className="quiet chords-hint">
              No chords yet. Read them from a recording, choose a bar and type one (Dm, F#m7b5, Bb/D, Esus4,
              N.C.), or play them on the chord keys.
            </p>
          )}
          <ChordSheet
            spans={shown}
            time={taking?.time ?? time}
            endTicks={taking?.endTicks ?? endTicks}
            leastBars={lastBar}
            scrolled={scrolled}
            barsPerRow={barsPerRow}
            sections={sections}
            keys={shownKeys}
            selected={found ? NONE : selected}
            place={found ? null : place}
            playingId={playingId}
            triedId={triedId}
            onSelect={found ? ({ chord }) => hear(chord) : editing.select}
            onPlace={found ? () => undefined : editing.goTo}
            onOpen={() => {
              field.current?.focus();
              field.current?.select();
            }}
            onMove={found ? undefined : editing.moveTo}
          />
        </div>
        <ChordKeys
          place={found ? null : place}
          changes={changes}
          change={editing.change}
          goTo={editing.goTo}
          computer={computer}
          setComputer={setComputer}
        />
      </div>
      {found && taking ? (
        <FoundSheet
          key={`${found.name} ${found.chords.length} ${found.tempo?.known} ${found.tempo?.bpm}`}
          found={found}
          use={reads}
          taking={taking}
          onReadOver={(over) => readAgain((asked) => asked, over)}
          onPutRight={(tempo, asPlayed) => readAgain((asked) => overBeats(asked, tempo, asPlayed))}
          onNear={(bpm) => readAgain((asked) => nearTempo(asked, bpm))}
          busy={reading.status !== null}
          onDone={() => {
            setFound(null);
            editing.forget();
          }}
        />
      ) : (
        <ChordSide {...editing} fieldRef={field} hear={hear} />
      )}
    </>
  );
}
