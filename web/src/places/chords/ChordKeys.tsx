/** Chord keys along the bottom: one key plays one chord; played by pointer, computer keys or a MIDI keyboard. */
import { useEffect, useMemo, useState } from 'react';
import { DownOutlined, UpOutlined } from '@ant-design/icons';
import { Button, Segmented, Switch, Tooltip } from 'antd';
import { chordKeysOf, soundOfChordKey } from '@plundra/core/arranging';
import {
  CHORD_KEY_COUNT,
  keyAt,
  putChord,
  type ChordEntry,
  type ChordEntriesChange,
  type ChordKey,
  type Song,
} from '@plundra/core/song';
import { chordsOfKey, noteNameIn, sameSound, type Key } from '@plundra/core/theory';
import { ChordName, chordText } from '../../song/ChordName.tsx';
import { useSong } from '../../song/SongContext.tsx';
import { browserMemory } from '../../song/storage.ts';
import { Overflow } from '../../controls/Overflow.tsx';
import { ChordKeyEditor } from './ChordKeyEditor.tsx';
import { isBlack, letterOfCode, midiOfCode, NOTE_CODES, ROW_CODES } from '../../song/keys/playedKeys.ts';
import { MidiKeyboardChoice } from '../../song/keys/MidiKeyboardChoice.tsx';
import { TakeBar } from './TakeBar.tsx';
import { useChordPlaying } from './useChordPlaying.ts';
import { useComputerKeys, useMidiKeyboard, type KeysPlay } from '../../song/keys/useKeyboardPlaying.ts';

type Keys = (ChordKey | null)[];

const OPEN_KEY = 'chord-keys-open';
const createId = () => crypto.randomUUID();

/** What the keys hold: what was put on them, else the song's chords, and then those of the key. */
function keysOf(song: Song, changes: readonly ChordEntry[], songKey: Key | null): Keys {
  const set = song.chordKeys ?? [];
  if (set.some(Boolean)) return padded(set);
  const fromChanges = chordKeysOf(changes);
  const key = songKey ?? { fifths: 0, mode: 'major' as const };
  // The first chord that is typed does not take the others away.
  const ofKey = chordsOfKey(key).filter((chord) => !fromChanges.some((each) => sameSound(each.chord, chord)));
  return padded([...fromChanges, ...ofKey.map((chord) => ({ chord, inversion: 0 }))]);
}

const padded = (keys: Keys): Keys => Array.from({ length: CHORD_KEY_COUNT }, (_, i) => keys.at(i) ?? null);

export function ChordKeys({
  place,
  changes,
  change,
  goTo,
  computer,
  setComputer,
}: {
  place: number | null;
  changes: readonly ChordEntry[];
  change(label: string, change: ChordEntriesChange): void;
  goTo(ticks: number): void;
  /** Whether the computer keys play. */
  computer: boolean;
  setComputer(on: boolean): void;
}) {
  const { song, time, apply, engine, listen } = useSong();
  const [open, setOpen] = useState(() => browserMemory.read(OPEN_KEY) !== 'no');
  const [play, setPlay] = useState<KeysPlay>('chords');
  const [withBass, setWithBass] = useState(true);
  const [chosen, setChosen] = useState<number | null>(null);
  // Where a chord is about to go, else where the song begins.
  const placeKey = keyAt(song, place ?? 0);
  const keys = useMemo(() => keysOf(song, changes, placeKey), [song, changes, placeKey]);
  const playing = useChordPlaying(placeKey);
  const { octaves } = listen.chords;
  useEffect(() => browserMemory.write(OPEN_KEY, open ? 'yes' : 'no'), [open]);

  const downKey = (index: number, id: string, velocity?: number) => {
    const key = keys[index];
    if (!key) return;
    setChosen(index);
    playing.down(id, soundOfChordKey(key, { octaves, withBass }), key.chord, velocity);
  };
  const playable = {
    keyCount: CHORD_KEY_COUNT,
    downKey,
    downNote: (midi: number, id: string, velocity?: number) =>
      playing.down(id, [midi + 12 * octaves], undefined, velocity),
    up: playing.up,
  };
  useComputerKeys(open && computer, play, playable, () => setComputer(false));
  const midi = useMidiKeyboard(play, playable);
  const put = (label: string, next: Keys) =>
    apply(label, { type: 'song.set', patch: { chordKeys: padded(next) } });
  const set = (index: number, key: ChordKey | null) =>
    put(`Chord key ${index + 1}`, padded(keys).with(index, key));
  const putPlayedChord = () => {
    if (!playing.name || place === null) return;
    change(`Chord ${chordText(playing.name)}`, putChord(changes, place, playing.name, createId));
    goTo(place);
  };
  const { bar, beat } = time.barAt(place ?? 0);

  return (
    <section className="chord-keys" aria-label="Chord keys">
      <div className="chord-keys-head">
        <Button
          type="text"
          size="small"
          aria-expanded={open}
          icon={open ? <DownOutlined /> : <UpOutlined />}
          onClick={() => {
            setOpen(!open);
            setComputer(false);
          }}
        >
          Chord keys
        </Button>
        {open && (
          <>
            <Tooltip title="The keys of the middle row play; only Space, Escape and Ctrl combinations stay what they are">
              <label className="chord-keys-switch">
                <Switch
                  size="small"
                  checked={computer}
                  onChange={setComputer}
                  aria-label="Computer keys play"
                />
                Computer keys
              </label>
            </Tooltip>
            <Segmented<KeysPlay>
              size="small"
              aria-label="Keys play"
              value={play}
              options={[
                { value: 'chords', label: 'Chords' },
                { value: 'notes', label: 'Notes' },
              ]}
              onChange={setPlay}
            />
            <Overflow label="More of the chord keys">
              <label className="chord-keys-switch">
                <Switch size="small" checked={withBass} onChange={setWithBass} aria-label="Bass below" />
                Bass below
              </label>
              <MidiKeyboardChoice {...midi} />
            </Overflow>
            <span style={{ flex: 1 }} />
            {playing.name && (
              <span className="chord-played" role="status" aria-label="Played">
                <ChordName chord={playing.name} />
              </span>
            )}
            {playing.name && place !== null && (
              <Button size="small" onClick={putPlayedChord}>
                Put at bar {bar}
                {beat > 1 ? `.${beat}` : ''}
              </Button>
            )}
            {playing.take.state === 'recording' ? (
              <Button size="small" danger onClick={() => engine.stop()}>
                End the take ({playing.take.presses.length})
              </Button>
            ) : (
              <Button size="small" title="Starts the song at the playhead" onClick={playing.record}>
                Record a take
              </Button>
            )}
          </>
        )}
      </div>
      {open && (
        <>
          {play === 'notes' && (
            <div className="chord-key-row" role="group" aria-label="Keys as notes">
              {NOTE_CODES.map((code) => {
                const midi = midiOfCode(code)!;
                const sounds = midi + 12 * octaves;
                const id = `pointer note ${midi}`;
                const down = [id, `computer ${code}`].some((each) => playing.heldIds.has(each));
                return (
                  <button
                    key={code}
                    type="button"
                    className={`chord-key note${isBlack(midi) ? ' black' : ''}${down ? ' down' : ''}`}
                    aria-label={`Note ${noteNameIn(sounds, placeKey)}`}
                    onPointerDown={(event) => {
                      if (event.button !== 0) return;
                      event.currentTarget.setPointerCapture(event.pointerId);
                      playable.downNote(midi, id);
                    }}
                    onPointerUp={() => playing.up(id)}
                    onPointerCancel={() => playing.up(id)}
                    onKeyDown={(event) => {
                      if (event.key === 'Enter' && !event.repeat) playable.downNote(midi, id);
                    }}
                    onKeyUp={() => playing.up(id)}
                    onBlur={() => playing.up(id)}
                  >
                    <span className="chord-key-name">{noteNameIn(sounds, placeKey)}</span>
                    <kbd className={computer ? 'on' : ''}>{letterOfCode(code)}</kbd>
                  </button>
                );
              })}
            </div>
          )}
          <div className="chord-key-row" hidden={play === 'notes'}>
            {keys.map((key, index) => {
              const id = `pointer ${index}`;
              const down = [id, `computer ${ROW_CODES[index]}`].some((each) => playing.heldIds.has(each));
              return (
                <button
                  key={index}
                  type="button"
                  className={`chord-key${down ? ' down' : ''}${chosen === index ? ' chosen' : ''}`}
                  aria-label={`Chord key ${index + 1}, ${key ? chordText(key.chord) : 'empty'}`}
                  aria-pressed={chosen === index}
                  onPointerDown={(event) => {
                    if (event.button !== 0) return;
                    setChosen(index);
                    event.currentTarget.setPointerCapture(event.pointerId);
                    downKey(index, id);
                  }}
                  onPointerUp={() => playing.up(id)}
                  onPointerCancel={() => playing.up(id)}
                  onKeyDown={(event) => {
                    if (event.key !== 'Enter' || event.repeat) return;
                    setChosen(index);
                    downKey(index, id);
                  }}
                  onKeyUp={() => playing.up(id)}
                  onBlur={() => playing.up(id)}
                >
                  <span className="chord-key-name">{key ? <ChordName chord={key.chord} /> : '·'}</span>
                  <kbd className={computer ? 'on' : ''}>{letterOfCode(ROW_CODES[index])}</kbd>
                </button>
              );
            })}
          </div>
          {playing.take.state === 'done' ? (
            <TakeBar
              presses={playing.take.presses}
              changes={changes}
              change={change}
              onDone={playing.forget}
            />
          ) : (
            <div className="chord-key-editor">
              {chosen === null ? (
                <span className="quiet">Press a key to hear its chord, and to change it here.</span>
              ) : (
                <ChordKeyEditor
                  key={chosen}
                  index={chosen}
                  value={keys[chosen]}
                  onChange={(key) => set(chosen, key)}
                />
              )}
              <span style={{ flex: 1 }} />
              <Button
                size="small"
                type="text"
                disabled={changes.length === 0}
                title="The song's chords in their order, each once"
                onClick={() => put('Fill the chord keys', chordKeysOf(changes))}
              >
                Fill from the song’s chords
              </Button>
            </div>
          )}
        </>
      )}
    </section>
  );
}
