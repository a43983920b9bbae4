/** Keys along the bottom, whose notes go into a part: played by pointer, computer keys or a MIDI keyboard, with the key and chord of the moment. */
import { useEffect, useState, type ReactNode } from 'react';
import { DownOutlined, LeftOutlined, RightOutlined, UpOutlined } from '@ant-design/icons';
import { Tooltip } from 'antd';
import type { HowPlayed, KeySounds, TakePull } from '@plundra/core/arranging';
import { changeAt, chordEntriesOf, keyAt, type NotePart } from '@plundra/core/song';
import type { Sound } from '../../audio/instruments.ts';
import { Button, Select, Switch } from '../../controls/index.tsx';
import { Overflow } from '../../controls/Overflow.tsx';
import { letterOfCode, midiOfCode, NOTE_CODES } from './playedKeys.ts';
import { useComputerKeys, useMidiKeyboard } from './useKeyboardPlaying.ts';
import { useSong } from '../SongContext.tsx';
import { browserMemory } from '../storage.ts';
import { DRUM_PADS, DrumPads } from './DrumPads.tsx';
import { HowYouPlay } from './HowYouPlay.tsx';
import { MidiKeyboardChoice } from './MidiKeyboardChoice.tsx';
import { PianoKeys } from './PianoKeys.tsx';
import type { PlayInDoes } from './keepPass.ts';
import { useNotePlaying, type PlayInSettings } from './useNotePlaying.ts';

const OPEN_KEY = 'note-keys-open';
/** C1 to C6 are the lowest of the keys on screen. */
const [LOWEST, HIGHEST] = [24, 84];
const FIRST = 48;
const DELAY_KEY = 'play-in-delay';
const firstSettings = (): PlayInSettings => ({
  sounds: 'all',
  pull: 'off',
  fixedVelocity: false,
  does: 'adds',
  delaySeconds: Number(browserMemory.read(DELAY_KEY) ?? 0) || 0,
});
/** How often key and chord of the moment are looked at while it plays. */
const LOOK_MS = 120;

const DOES: { value: PlayInDoes; label: string }[] = [
  { value: 'adds', label: 'Playing adds' },
  { value: 'replaces', label: 'Playing replaces' },
  { value: 'takes', label: 'Each round a take' },
];
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

interface Props {
  /** What is played goes into it; null: into a new one. */
  part: NotePart | null;
  program: Sound;
  /** Takes were put into a part. */
  onTakes?(partId: string): void;
  /** What stands first in the head: where it goes. */
  children?: ReactNode;
}

/** Put away they are one button, which costs an edit of the song nothing. */
export function NoteKeys(props: Props) {
  const [open, setOpen] = useState(() => browserMemory.read(OPEN_KEY) === 'yes');
  useEffect(() => browserMemory.write(OPEN_KEY, open ? 'yes' : null), [open]);
  if (open) return <OpenKeys {...props} onClose={() => setOpen(false)} />;
  return (
    <section className="chord-keys note-keys" aria-label="Keys">
      <div className="chord-keys-head">
        <Button
          type="text"
          size="small"
          aria-expanded={false}
          icon={<UpOutlined />}
          onClick={() => setOpen(true)}
        >
          Play in
        </Button>
      </div>
    </section>
  );
}

function OpenKeys({ part, program, onTakes, children, onClose }: Props & { onClose(): void }) {
  const { song } = useSong();
  const drums = program === 'drums';
  const [computer, setComputer] = useState(false);
  const [lowest, setLowest] = useState(FIRST);
  const [settings, setSettings] = useState(firstSettings);
  /** The pass whose delay was taken off: once is enough. */
  const [answered, setAnswered] = useState<HowPlayed | null>(null);
  const set = (change: Partial<PlayInSettings>) => setSettings((old) => ({ ...old, ...change }));
  const playing = useNotePlaying(part, program, settings, onTakes);
  const ticks = usePlayingTicks();
  // The letters play the middle octave that is on screen.
  const fromLetter = (midi: number) => midi - 60 + lowest + 12;
  const playable = {
    keyCount: DRUM_PADS.length,
    downKey: (index: number, id: string, velocity?: number) => {
      if (index < DRUM_PADS.length) playing.down(DRUM_PADS[index], id, velocity);
    },
    downNote: (midi: number, id: string, velocity?: number) =>
      playing.down(id.startsWith('computer') ? fromLetter(midi) : midi, id, velocity),
    up: playing.up,
    pedal: playing.pedal,
    bend: playing.bend,
  };
  useComputerKeys(computer, drums ? 'chords' : 'notes', playable, () => setComputer(false));
  const midi = useMidiKeyboard('notes', playable);

  const key = keyAt(song, ticks);
  const chord = changeAt(chordEntriesOf(song), ticks)?.chord ?? null;
  const letters = new Map(NOTE_CODES.map((code) => [fromLetter(midiOfCode(code)!), letterOfCode(code)]));
  return (
    <section className="chord-keys note-keys" aria-label="Keys">
      <div className="chord-keys-head">
        <Button type="text" size="small" aria-expanded icon={<DownOutlined />} onClick={onClose}>
          Play in
        </Button>
        <Tooltip title="The keys A S D … play; only Space, Escape and Ctrl combinations stay what they are">
          <label className="chord-keys-switch">
            <Switch size="small" checked={computer} onChange={setComputer} aria-label="Computer keys play" />
            Computer keys
          </label>
        </Tooltip>
        {children}
        <span style={{ flex: 1 }} />
        {(part || onTakes) && (
          <Select<PlayInDoes>
            size="small"
            aria-label="What playing in does to the notes that are there"
            style={{ width: 158 }}
            value={settings.does}
            onChange={(does) => set({ does })}
            options={DOES}
          />
        )}
        <Button
          size="small"
          danger={playing.recording}
          type={playing.recording ? 'primary' : 'default'}
          onClick={playing.record}
        >
          {playing.recording ? `Stop and keep (${playing.count})` : 'Record notes'}
        </Button>
      </div>
      <div className="chord-keys-head">
        <Overflow label="More of the keys">
          {!drums && (
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
          )}
          <Select<TakePull>
            size="small"
            aria-label="Pull while playing"
            style={{ width: 128 }}
            value={settings.pull}
            onChange={(pull) => set({ pull })}
            options={PULLS}
          />
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
          <MidiKeyboardChoice {...midi} />
        </Overflow>
        <span style={{ flex: 1 }} />
        {!drums && (
          <>
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
          </>
        )}
      </div>
      {playing.how && (
        <HowYouPlay
          how={playing.how}
          answered={playing.how === answered}
          delaySeconds={settings.delaySeconds}
          setDelaySeconds={(delaySeconds) => {
            setAnswered(playing.how);
            set({ delaySeconds });
            browserMemory.write(DELAY_KEY, delaySeconds === 0 ? null : String(delaySeconds));
          }}
        />
      )}
      {drums ? (
        <DrumPads playing={playing} letters={computer} />
      ) : (
        <PianoKeys
          playing={playing}
          lowest={lowest}
          sounds={settings.sounds}
          musicKey={key}
          chord={chord}
          letterOf={(midi) => (computer ? letters.get(midi) : undefined)}
        />
      )}
    </section>
  );
}
