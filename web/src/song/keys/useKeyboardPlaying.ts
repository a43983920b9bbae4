/** Computer keys and MIDI keyboards as chord keys or as notes. */
import { useCallback, useEffect, useRef, useState } from 'react';
import { App } from 'antd';
import { listenToMidiKeyboards, type MidiInputName, type MidiListening } from '../../audio/midiKeyboard.ts';
import { isTyping } from '../../controls/keyFocus.ts';
import { chordKeyOfCode, chordKeyOfMidi, midiOfCode } from './playedKeys.ts';

export type KeysPlay = 'chords' | 'notes';

interface Playable {
  keyCount: number;
  /** Plays a chord key. */
  downKey(index: number, id: string, velocity?: number): void;
  /** Plays a note. */
  downNote(midi: number, id: string, velocity?: number): void;
  up(id: string): void;
  pedal?(down: boolean): void;
  bend?(semitones: number): void;
}

/** While the computer keys play, only Space, Escape and combinations with Ctrl do what they do elsewhere. */
export function useComputerKeys(on: boolean, play: KeysPlay, playable: Playable, off: () => void): void {
  const latest = useRef({ play, playable, off });
  useEffect(() => {
    latest.current = { play, playable, off };
  });
  useEffect(() => {
    if (!on) return;
    const onDown = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.metaKey || event.key === ' ') return;
      const { play, playable, off } = latest.current;
      event.preventDefault();
      event.stopImmediatePropagation();
      if (event.key === 'Escape') return off();
      if (event.repeat || event.altKey) return;
      const id = `computer ${event.code}`;
      const index = chordKeyOfCode(event.code);
      const midi = midiOfCode(event.code);
      if (play === 'chords' && index !== undefined) playable.downKey(index, id);
      else if (play === 'notes' && midi !== undefined) playable.downNote(midi, id);
    };
    const onUp = (event: KeyboardEvent) => latest.current.playable.up(`computer ${event.code}`);
    window.addEventListener('keydown', onDown, { capture: true });
    window.addEventListener('keyup', onUp, { capture: true });
    return () => {
      window.removeEventListener('keydown', onDown, { capture: true });
      window.removeEventListener('keyup', onUp, { capture: true });
    };
  }, [on]);
}

export interface MidiKeyboards {
  /** Null before they are listened to. */
  inputs: readonly MidiInputName[] | null;
  /** The one that plays; null: all of them. */
  chosenId: string | null;
  choose(inputId: string | null): void;
  connect(): void;
}

/** MIDI keyboards, once they are asked for: all of them play, or one that is chosen. */
export function useMidiKeyboard(play: KeysPlay, playable: Playable): MidiKeyboards {
  const { message } = App.useApp();
  const [inputs, setInputs] = useState<readonly MidiInputName[] | null>(null);
  const [chosenId, setChosenId] = useState<string | null>(null);
  const listening = useRef<MidiListening | undefined>(undefined);
  const latest = useRef({ play, playable });
  useEffect(() => {
    latest.current = { play, playable };
  });
  useEffect(() => () => listening.current?.stop(), []);
  const choose = useCallback((inputId: string | null) => {
    listening.current?.choose(inputId);
    setChosenId(inputId);
  }, []);
  const connect = useCallback(() => {
    const look = () => {
      const now = listening.current?.inputs() ?? [];
      setInputs(now);
      // One that was pulled out plays no more, and then all do.
      setChosenId((before) => {
        const still = now.some(({ id }) => id === before) ? before : null;
        listening.current?.choose(still);
        return still;
      });
      return now;
    };
    // First: a keyboard has one listener.
    listening.current?.stop();
    listenToMidiKeyboards(
      {
        down(midi, velocity) {
          const { play, playable } = latest.current;
          const index = play === 'chords' ? chordKeyOfMidi(midi, playable.keyCount) : undefined;
          if (play === 'notes') playable.downNote(midi, `midi ${midi}`, velocity);
          else if (index !== undefined) playable.downKey(index, `midi ${midi}`, velocity);
        },
        up: (midi) => latest.current.playable.up(`midi ${midi}`),
        pedal: (down) => latest.current.playable.pedal?.(down),
        bend: (semitones) => latest.current.playable.bend?.(semitones),
      },
      look,
    ).then(
      (started) => {
        listening.current = started;
        const names = look().map(({ name }) => name);
        void message.info(
          names.length === 0
            ? 'No MIDI keyboard is plugged in yet. It plays as soon as there is one.'
            : `${names.join(', ')} ${names.length === 1 ? 'plays' : 'play'} now.`,
          4,
        );
      },
      (error: Error) => void message.warning(error.message, 7),
    );
  }, [message]);
  return { inputs, chosenId, choose, connect };
}
