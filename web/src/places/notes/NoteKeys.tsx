/** Keys along the bottom of a note part: played by pointer, computer keys or a MIDI keyboard, with the key and chord of the moment. */
import { useEffect, useState, type CSSProperties } from 'react';
import { DownOutlined, LeftOutlined, RightOutlined, UpOutlined } from '@ant-design/icons';
import { Button, Select, Switch, Tooltip } from 'antd';
import { soundOfKey, type KeySounds, type TakePull } from '@plundra/core/arranging';
import { changeAt, chordEntriesOf, keyAt, type NotePart } from '@plundra/core/song';
import { degreeOf, noteName, noteNameIn, pitchClassesOf } from '@plundra/core/theory';
import { Overflow } from '../../controls/Overflow.tsx';
import { isBlack, letterOfCode, midiOfCode, NOTE_CODES } from '../../song/keys/playedKeys.ts';
import { useComputerKeys, useMidiKeyboard } from '../../song/keys/useKeyboardPlaying.ts';
import { useSong } from '../../song/SongContext.tsx';
import { browserMemory } from '../../song/storage.ts';
import { useNotePlaying, type PlayInSettings } from './useNotePlaying.ts';

const OPEN_KEY = 'note-keys-open';
const OCTAVES_SHOWN = 3;
/** C1 to C6 are the lowest of the keys on screen. */
const [LOWEST, HIGHEST] = [24, 84];
const FIRST = 48;
const FIRST_SETTINGS: PlayInSettings = { sounds: 'all', pull: 'off', fixedVelocity: false, replaces: false };
/** How often key and chord of the moment are looked at while it plays. */
const LOOK_MS = 120;

const PULLS: { value: TakePull; label: string }[] = [
  { value: 'off', label: 'Pull: off' },
  { value: '1/4', label: 'Pull: 1/4' },
  { value: '1/8', label: 'Pull: 1/8' },
  { value: '1/8t', label: 'Pull: 1/8 triplet' },
  { value: '1/16', label: 'Pull: 1/16' },
];

/** The tick of the playhead, a few times a second while it moves. */
function usePlayingTicks(): number {
  const { engine, time } = useSong();
  const [ticks, setTicks] = useState(0);
  useEffect(() => {
    const look = () => setTicks(Math.max(0, Math.round(time.ticksAt(engine.positionSeconds()))));
    look();
    const timer = setInterval(() => engine.getState().playing && look(), LOOK_MS);
    const stop = engine.subscribe(look);
    return () => {
      clearInterval(timer);
      stop();
    };
  }, [engine, time]);
  return ticks;
}

export function NoteKeys({ part }: { part: NotePart }) {
  const { song } = useSong();
  const [open, setOpen] = useState(() => browserMemory.read(OPEN_KEY) === 'yes');
  const [computer, setComputer] = useState(false);
  const [lowest, setLowest] = useState(FIRST);
  const [settings, setSettings] = useState(FIRST_SETTINGS);
  const set = (change: Partial<PlayInSettings>) => setSettings((old) => ({ ...old, ...change }));
  const playing = useNotePlaying(part, settings);
  const ticks = usePlayingTicks();
  useEffect(() => browserMemory.write(OPEN_KEY, open ? 'yes' : null), [open]);
  // The letters play the middle octave that is on screen.
  const fromLetter = (midi: number) => midi - 60 + lowest + 12;
  const playable = {
    keyCount: 0,
    downKey: () => undefined,
    downNote: (midi: number, id: string, velocity?: number) =>
      playing.down(id.startsWith('computer') ? fromLetter(midi) : midi, id, velocity),
    up: playing.up,
    pedal: playing.pedal,
  };
  useComputerKeys(open && computer, 'notes', playable, () => setComputer(false));
  const midi = useMidiKeyboard('notes', playable);

  const key = keyAt(song, ticks);
  const chord = changeAt(chordEntriesOf(song), ticks)?.chord ?? null;
  const inChord = new Set(
    chord ? pitchClassesOf(chord).map((pitchClass) => ((pitchClass % 12) + 12) % 12) : [],
  );
  const sounding = new Set(playing.held.values());
  const letters = new Map(NOTE_CODES.map((code) => [fromLetter(midiOfCode(code)!), letterOfCode(code)]));
  const keys = Array.from({ length: 12 * OCTAVES_SHOWN + 1 }, (_, i) => lowest + i);
  const whites = keys.filter((each) => !isBlack(each));
  const button = (each: number) => {
    const sounds = soundOfKey(each, settings.sounds, key, chord);
    const id = `pointer ${each}`;
    const degree = key ? degreeOf(each, key) : undefined;
    const classes = [
      'piano-key',
      isBlack(each) ? 'black' : 'white',
      sounding.has(each) ? 'down' : '',
      sounds === each ? '' : 'other',
      inChord.has(each % 12) ? 'in-chord' : '',
    ];
    const before = whites.filter((white) => white < each).length;
    return (
      <button
        key={each}
        type="button"
        className={classes.join(' ')}
        style={
          isBlack(each) ? ({ '--before': before, '--whites': whites.length } as CSSProperties) : undefined
        }
        aria-label={`Key ${noteName(each)}${sounds === each ? '' : `, sounds ${noteNameIn(sounds, key)}`}`}
        onPointerDown={(event) => {
          if (event.button !== 0) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          playing.down(each, id);
        }}
        onPointerUp={() => playing.up(id)}
        onPointerCancel={() => playing.up(id)}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && !event.repeat) playing.down(each, id);
        }}
        onKeyUp={() => playing.up(id)}
        onBlur={() => playing.up(id)}
      >
        {computer && letters.has(each) && <kbd>{letters.get(each)}</kbd>}
        <span className="degree">
          {sounds === each ? (degree ?? '') : `→${noteNameIn(sounds, key).replace(/\d+$/, '')}`}
        </span>
        {!isBlack(each) && <span className="name">{noteName(each)}</span>}
      </button>
    );
  };
  return (
    <section className="chord-keys note-keys" aria-label="Keys">
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
          Play in
        </Button>
        {open && (
          <>
            <Tooltip title="The keys A S D … play; only Space, Escape and Ctrl combinations stay what they are">
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
            <Overflow label="Sounds">
              <Select<KeySounds>
                size="small"
                aria-label="What the keys sound"
                style={{ width: 168 }}
                value={settings.sounds}
                onChange={(sounds) => set({ sounds })}
                options={[
                  { value: 'all', label: 'Sounds: all notes' },
                  { value: 'scale', label: 'Sounds: of the scale' },
                  { value: 'chord', label: 'Sounds: of the chord' },
                ]}
              />
            </Overflow>
            <Overflow label="Pull">
              <Select<TakePull>
                size="small"
                aria-label="Pull while playing"
                style={{ width: 128 }}
                value={settings.pull}
                onChange={(pull) => set({ pull })}
                options={PULLS}
              />
            </Overflow>
            <Overflow label="More of the keys">
              <Select
                size="small"
                aria-label="Velocity"
                style={{ width: 140 }}
                value={settings.fixedVelocity}
                onChange={(fixedVelocity) => set({ fixedVelocity })}
                options={[
                  { value: false, label: 'Velocity: played' },
                  { value: true, label: 'Velocity: fixed' },
                ]}
              />
              <Button size="small" type="text" onClick={midi.connect}>
                {midi.names === null ? 'MIDI keyboard' : (midi.names.at(0) ?? 'No MIDI keyboard yet')}
              </Button>
            </Overflow>
            <span style={{ flex: 1 }} />
            <Button
              size="small"
              type="text"
              aria-label="An octave lower"
              icon={<LeftOutlined />}
              disabled={lowest <= LOWEST}
              onClick={() => setLowest(lowest - 12)}
            />
            <Button
              size="small"
              type="text"
              aria-label="An octave higher"
              icon={<RightOutlined />}
              disabled={lowest >= HIGHEST}
              onClick={() => setLowest(lowest + 12)}
            />
            <Select
              size="small"
              aria-label="What playing in does to the notes that are there"
              style={{ width: 118 }}
              value={settings.replaces}
              onChange={(replaces) => set({ replaces })}
              options={[
                { value: false, label: 'adds' },
                { value: true, label: 'replaces' },
              ]}
            />
            <Button
              size="small"
              danger={playing.recording}
              type={playing.recording ? 'primary' : 'default'}
              onClick={playing.record}
            >
              {playing.recording ? `Stop and keep (${playing.count})` : 'Record notes'}
            </Button>
          </>
        )}
      </div>
      {open && (
        <div className="piano" role="group" aria-label="Piano keys" data-testid="piano">
          {keys.filter((each) => !isBlack(each)).map(button)}
          {keys.filter(isBlack).map(button)}
        </div>
      )}
    </section>
  );
}
