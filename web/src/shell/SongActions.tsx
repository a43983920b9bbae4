/** What can be done in every place of a song, for finding an action. */
import { useMemo } from 'react';
import { useNavigate } from 'react-router';
import { useActions, type Action } from '../song/actions.ts';
import { useRecord } from '../song/recording/RecordingContext.ts';
import { useSong } from '../song/SongContext.tsx';

export function SongActions({ openShortcuts }: { openShortcuts(): void }) {
  const { song, engine, undo, redo, history, setListen, session } = useSong();
  const { toggle: toggleRecording, setOpen: setRecordSheet, setInto } = useRecord();
  const navigate = useNavigate();
  const [done, undone] = [history.done.at(-1)?.label, history.undone.at(-1)?.label];
  const { songId } = session;
  const { parts } = song;
  const actions = useMemo((): Action[] => {
    const go = (place: string) => () => void navigate(`/songs/${songId}/${place}`);
    return [
      { label: 'Play or stop', words: 'start pause transport', keys: 'Space', run: () => engine.toggle() },
      { label: 'Go to the start', words: 'rewind home return zero', keys: 'Home', run: () => engine.seek(0) },
      { label: 'Loop on or off', words: 'cycle repeat', keys: 'L', run: () => engine.toggleLoop() },
      { label: 'Metronome on or off', words: 'click', run: () => engine.toggleMetronome() },
      {
        label: 'Record, or stop recording',
        words: 'capture take arm overdub punch in',
        run: toggleRecording,
      },
      {
        label: 'Open the record sheet',
        words:
          'input microphone level latency delay monitoring punch loop cycle comp count-in tuner tune guitar',
        run: () => setRecordSheet(true),
      },
      ...parts
        .filter(({ kind }) => kind === 'recording')
        .map(({ id, name }) => ({
          label: `Record a take of ${name}`,
          words: 'overdub punch comp alternative lane',
          run: () => {
            setInto(id);
            setRecordSheet(true);
          },
        })),
      { label: 'Count-in on or off', words: 'precount pre roll', run: () => engine.toggleCountIn() },
      {
        label: done ? `Undo: ${done}` : 'Undo',
        words: 'back revert',
        keys: 'Ctrl Z',
        disabled: !done,
        run: undo,
      },
      {
        label: undone ? `Redo: ${undone}` : 'Redo',
        words: 'again',
        keys: 'Ctrl Shift Z',
        disabled: !undone,
        run: redo,
      },
      {
        label: 'Hear the recordings',
        words: 'audio listen',
        keys: '1',
        run: () => setListen({ mode: 'recording' }),
      },
      { label: 'Hear the notes', words: 'midi listen', keys: '2', run: () => setListen({ mode: 'notes' }) },
      { label: 'Hear both', words: 'blend listen', keys: '3', run: () => setListen({ mode: 'both' }) },
      {
        label: 'Hear one in each ear',
        words: 'split pan compare',
        keys: '4',
        run: () => setListen({ mode: 'split' }),
      },
      {
        label: 'Go to the Timeline',
        words: 'arrange arrangement tracks mixer parts',
        run: go('timeline'),
      },
      {
        label: 'Go to Chords',
        words: 'harmony progression changes sheet detect sections bars insert',
        run: go('chords'),
      },
      {
        label: 'Go to the shelf',
        words: 'loops samples library browser clips phrases sounds',
        run: go('shelf'),
      },
      ...parts.map((part) => ({
        label: `Open ${part.name} in Notes`,
        words: 'edit piano roll pitch track',
        run: go(`notes/${part.id}`),
      })),
      { label: 'All keys', words: 'shortcuts keyboard help', keys: '?', run: openShortcuts },
      { label: 'All songs', words: 'close leave home projects', run: () => void navigate('/') },
    ];
  }, [
    done,
    undone,
    engine,
    undo,
    redo,
    setListen,
    navigate,
    openShortcuts,
    songId,
    parts,
    toggleRecording,
    setRecordSheet,
    setInto,
  ]);
  useActions('song', actions);
  return null;
}
