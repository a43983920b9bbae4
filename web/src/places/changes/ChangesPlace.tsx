/** Changes: the song's chords as a sheet; read, corrected, tried and put to use. */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { App, Button, Progress, Segmented, Select, Tooltip } from 'antd';
import type { ChordsResult } from '@plundra/contract';
import {
  changesFromReading,
  changesOf,
  chordSpans,
  pasteChords,
  songEndTicks,
  type Change,
  type ChangesChange,
  type ChordPull,
  type RecordingPart,
} from '@plundra/core/song';
import { keyName } from '@plundra/core/theory';
import { instrumentOptions } from '../../audio/instruments.ts';
import { useSong } from '../../song/SongContext.tsx';
import { ChordSheet } from './ChordSheet.tsx';
import { ChordSide } from './ChordSide.tsx';
import { layOutBars } from './sheetLayout.ts';
import { readChordsOfPart } from './readChordsOfPart.ts';
import { useChangesKeys } from './useChangesKeys.ts';
import { useChordHearing } from './useChordHearing.ts';
import { useChordsReading } from './useChordsReading.ts';
import { usePlayingChange } from './usePlayingChange.ts';

const NOTHING: ReadonlySet<string> = new Set();
/** An empty song shows so many bars to type into. */
const LEAST_BARS = 8;
/** Notes are read in seconds of the song. */
const WHOLE_SONG = { startTicks: 0, offsetSeconds: 0, durationSeconds: Infinity };
const createId = () => crypto.randomUUID();

export interface CopiedChords {
  chords: { offsetTicks: number; chord: Change['chord'] }[];
  lengthTicks: number;
}

export function ChangesPlace() {
  const { song, time, apply, engine, listen, setListen } = useSong();
  const { message } = App.useApp();
  const changes = changesOf(song);
  const endTicks = useMemo(() => songEndTicks(song, time), [song, time]);
  const spans = useMemo(() => chordSpans(changes, endTicks), [changes, endTicks]);
  const bars = useMemo(() => layOutBars(spans, endTicks, time, LEAST_BARS), [spans, endTicks, time]);
  const [barsPerRow, setBarsPerRow] = useState(4);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(NOTHING);
  const [place, setPlace] = useState<number | null>(null);
  const [pull, setPull] = useState<ChordPull>('beat');
  const field = useRef<HTMLInputElement | null>(null);
  const copied = useRef<CopiedChords | null>(null);
  const hear = useChordHearing();
  const playingId = usePlayingChange(changes);
  const recordings = song.parts.filter(
    (part): part is RecordingPart => part.kind === 'recording' && part.material !== 'drums',
  );
  const [fromId, setFromId] = useState<string | null>(null);
  const noteParts = song.parts.filter((part) => part.kind === 'notes');
  const source = [...recordings, ...noteParts].find(({ id }) => id === fromId) ?? firstChordal(recordings);

  // Chords that are gone cannot stay selected.
  const selected = useMemo(() => {
    const known = new Set(changes.map(({ id }) => id));
    return new Set([...chosen].filter((id) => known.has(id)));
  }, [changes, chosen]);

  const change = useCallback(
    (label: string, { remove, put }: ChangesChange) =>
      remove.length + put.length > 0 && apply(label, { type: 'changes.put', remove, put }),
    [apply],
  );

  const take = (result: ChordsResult, recordingHash: string) => {
    const readFrom = recordings.find(({ passages }) => passages[0]?.recordingHash === recordingHash);
    const passage = readFrom?.passages[0];
    // Its part may have been removed meanwhile.
    if (!passage) return;
    takeRead(readFrom.name, result, changesFromReading(result.chords, passage, time, pull, createId));
  };
  const takeRead = (
    name: string,
    result: Pick<ChordsResult, 'keys'>,
    read: ReturnType<typeof changesFromReading>,
  ) => {
    const edits = [
      { type: 'changes.put' as const, remove: changes.map(({ id }) => id), put: read.changes },
      ...(song.key === null && result.keys.length > 0
        ? [{ type: 'song.set' as const, patch: { key: result.keys[0].key } }]
        : []),
    ];
    if (read.changes.every(({ chord }) => !chord)) {
      void message.info(`No chords were found in ${name}: nothing in it sounds as harmony.`, 6);
      return;
    }
    apply(`Read chords of ${name}`, { type: 'batch', edits });
    setChosen(NOTHING);
    const [best] = result.keys;
    const key = best ? `${keyName(best.key)} (${Math.round(100 * best.confidence)} % sure), ` : '';
    const off = Math.round(1000 * read.furthestSeconds);
    void message.success(
      `${key}${read.changes.length} chords; ${read.moved} boundaries moved to the ${pull === 'bar' ? 'bar' : 'beat'}, furthest ${off} ms`,
      7,
    );
  };
  const reading = useChordsReading(take);

  const select = useCallback(
    (picked: Change, extend: boolean) => {
      setPlace(picked.startTicks);
      hear(picked.chord);
      if (!extend || selected.size === 0) return setChosen(new Set([picked.id]));
      const indices = [...selected, picked.id].map((id) => changes.findIndex((each) => each.id === id));
      const [from, to] = [Math.min(...indices), Math.max(...indices)];
      setChosen(new Set(changes.slice(from, to + 1).map(({ id }) => id)));
    },
    [changes, hear, selected],
  );
  const goTo = useCallback(
    (ticks: number) => {
      const there = changes.find(({ startTicks }) => startTicks === ticks);
      setPlace(ticks);
      setChosen(there ? new Set([there.id]) : NOTHING);
    },
    [changes],
  );

  const chosenSpans = spans.filter(({ change: each }) => selected.has(each.id));
  const copy = () => {
    if (chosenSpans.length === 0) return;
    const from = chosenSpans[0].startTicks;
    copied.current = {
      chords: chosenSpans.map(({ startTicks, change: { chord } }) => ({
        offsetTicks: startTicks - from,
        chord,
      })),
      lengthTicks: chosenSpans[chosenSpans.length - 1].endTicks - from,
    };
  };
  const paste = () => {
    if (!copied.current || place === null) return;
    const { chords, lengthTicks } = copied.current;
    change(`Paste ${countChords(chords.length)}`, pasteChords(changes, chords, lengthTicks, place, createId));
  };
  const drop = () => {
    if (selected.size > 0) change(`Remove ${countChords(selected.size)}`, { remove: [...selected], put: [] });
  };
  const nextDoubtful = useCallback(
    (direction: 1 | -1) => {
      const doubtful = changes.filter(({ confidence }) => confidence !== undefined && confidence < 0.8);
      if (doubtful.length === 0) return;
      const at = place ?? -1;
      const ordered = direction === 1 ? doubtful : [...doubtful].reverse();
      const next =
        ordered.find(({ startTicks }) => (direction === 1 ? startTicks > at : startTicks < at)) ?? ordered[0];
      setPlace(next.startTicks);
      setChosen(new Set([next.id]));
      document.querySelector('.chord-box.selected')?.scrollIntoView({ block: 'nearest' });
    },
    [changes, place],
  );
  useChangesKeys({ spans, bars, place, goTo, field, copy, paste, drop, nextDoubtful });
  useEffect(() => {
    document.querySelector('.chord-box.selected')?.scrollIntoView({ block: 'nearest' });
  }, [selected]);

  return (
    <>
      <div className="main">
        <div className="changes-tools">
          <Select
            aria-label="Read chords from"
            size="small"
            style={{ width: 170 }}
            placeholder="No recording yet"
            value={source?.id}
            disabled={recordings.length + noteParts.length === 0}
            options={[...recordings, ...noteParts].map(({ id, name }) => ({ value: id, label: name }))}
            onChange={setFromId}
          />
          {reading.status ? (
            <>
              <Progress
                percent={Math.round(100 * reading.status.progress)}
                style={{ width: 140 }}
                size="small"
              />
              <Button size="small" onClick={reading.cancel}>
                Stop
              </Button>
            </>
          ) : (
            <Button
              size="small"
              type={changes.length === 0 ? 'primary' : 'default'}
              disabled={!source}
              onClick={() => {
                if (source?.kind === 'recording') reading.read(source.passages[0].recordingHash);
                else if (source) {
                  const found = readChordsOfPart(source, time);
                  takeRead(
                    source.name,
                    found,
                    changesFromReading(found.chords, WHOLE_SONG, time, pull, createId),
                  );
                }
              }}
            >
              Read chords
            </Button>
          )}
          <Tooltip title="Where the boundaries of chords that are read go">
            <Select<ChordPull>
              aria-label="Boundaries"
              size="small"
              style={{ width: 120 }}
              value={pull}
              options={[
                { value: 'beat', label: 'To beats' },
                { value: 'bar', label: 'To bar lines' },
                { value: 'off', label: 'As played' },
              ]}
              onChange={setPull}
            />
          </Tooltip>
          <span style={{ flex: 1 }} />
          <span className="quiet">Chords</span>
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
          <Select
            aria-label="Sound of the chords"
            size="small"
            className="hide-narrow"
            style={{ width: 130 }}
            value={listen.chords.program}
            options={instrumentOptions}
            onChange={(program) => setListen({ chords: { ...listen.chords, program } })}
          />
          <Segmented
            size="small"
            className="hide-narrow"
            aria-label="Bars in a row"
            value={barsPerRow}
            options={[
              { value: 4, label: '4 bars' },
              { value: 8, label: '8' },
            ]}
            onChange={setBarsPerRow}
          />
        </div>
        <div className="changes-scroll">
          {changes.length === 0 && !reading.status && (
            <p className="quiet changes-hint">
              {source
                ? `No chords yet. Read them from ${source.name}, or choose a bar and type one.`
                : 'No chords yet. Choose a bar and type one: Dm, F#m7b5, Bb/D, Esus4, N.C.'}
            </p>
          )}
          <ChordSheet
            bars={bars}
            barsPerRow={barsPerRow}
            songKey={song.key}
            selected={selected}
            place={place === null ? null : { ticks: place }}
            playingId={playingId}
            onSelect={select}
            onPlace={goTo}
            onOpen={(ticks) => engine.seek(time.secondsAt(ticks))}
          />
        </div>
      </div>
      <ChordSide
        changes={changes}
        spans={spans}
        selected={selected}
        place={place}
        fieldRef={field}
        change={change}
        goTo={goTo}
        hear={hear}
        copy={copy}
        paste={paste}
        drop={drop}
        nextDoubtful={nextDoubtful}
      />
    </>
  );
}

/** Chords are read best from what plays them. */
function firstChordal(recordings: readonly RecordingPart[]): RecordingPart | undefined {
  const first = (wanted: string) => recordings.find(({ material }) => material === wanted);
  return first('keys') ?? first('guitar') ?? first('other') ?? recordings.at(0);
}

export function countChords(count: number): string {
  return `${count} ${count === 1 ? 'chord' : 'chords'}`;
}
