/** The key of the song: choosing one, and asking whether the music moves with it. */
import { App } from 'antd';
import {
  chordEntriesOf,
  planTranspose,
  semitonesBetween,
  transposeChanges,
  type Edit,
  type SimpleEdit,
  type Song,
} from '@plundra/core/song';
import { keyName, keysOf, matchesKey, type Key } from '@plundra/core/theory';
import { Button, Select } from '../controls/index.tsx';
import { useSong } from '../song/SongContext.tsx';

/** A new key can mean that the music moves, or that its name was wrong. */
function askTransposing(
  modal: ReturnType<typeof App.useApp>['modal'],
  song: Song,
  key: Key,
  semitones: number,
  setOnly: () => void,
  apply: (label: string, edit: Edit) => boolean,
): void {
  const plan = planTranspose(song, key, semitones);
  const way = `${Math.abs(semitones)} ${Math.abs(semitones) === 1 ? 'semitone' : 'semitones'} ${semitones > 0 ? 'up' : 'down'}`;
  const dialog = modal.info({
    icon: null,
    title: `From ${keyName(song.key!)} to ${keyName(key)}`,
    width: 460,
    content: (
      <>
        <p>
          The song can be moved {way}, or the key can be named anew and every note stays. One undo brings
          either back.
        </p>
        <p>
          <b>Moves:</b>{' '}
          {plan.moving.length === 0
            ? 'nothing'
            : plan.moving
                .map((each) =>
                  each.notes === 0
                    ? `${each.name} (the whole recording)`
                    : `${each.name} (${each.notes} notes${each.recording ? ', recording' : ''})`,
                )
                .join(', ')}
        </p>
        {plan.staying.length > 0 && (
          <p>
            <b>Stays:</b> {plan.staying.map((each) => `${each.name} (${each.reason})`).join(', ')}
          </p>
        )}
      </>
    ),
    footer: (
      <div style={{ display: 'flex', gap: 8, justifyContent: 'flex-end', marginTop: 12 }}>
        <Button onClick={() => dialog.destroy()}>Cancel</Button>
        <Button
          onClick={() => {
            setOnly();
            dialog.destroy();
          }}
        >
          Only name the key
        </Button>
        <Button
          type="primary"
          disabled={plan.moving.length === 0}
          onClick={() => {
            apply(`Transpose to ${keyName(key)}`, plan.edit);
            dialog.destroy();
          }}
        >
          Transpose {way}
        </Button>
      </div>
    ),
  });
}

const keyCode = ({ fifths, mode }: Key) => `${fifths}:${mode}`;

/** Round the circle of fifths, from no accidentals on: sharps and flats in turn. */
const inTurn = (a: Key, b: Key) => Math.abs(a.fifths) - Math.abs(b.fifths) || b.fifths - a.fifths;
const KEYS = new Map((['major', 'minor'] as const).flatMap(keysOf).map((key) => [keyCode(key), key]));
const KEY_OPTIONS = [
  { value: 'none', label: 'Not set yet' },
  ...(['major', 'minor'] as const).map((mode) => ({
    label: mode === 'major' ? 'Major' : 'Minor',
    options: keysOf(mode)
      .sort(inTurn)
      .map((key) => ({ value: keyCode(key), label: keyName(key) })),
  })),
];

function keyLabel({ value }: { value?: string | number | undefined }) {
  const key = KEYS.get(String(value));
  return key ? keyName(key) : 'Key not set';
}

/** Chords are written anew where a key is exchanged for one that sounds the same: D♭ becomes C♯. */
function respelling(song: Song, key: Key | null): SimpleEdit[] {
  const same = key && song.key && key.mode === song.key.mode && Math.abs(key.fifths - song.key.fifths) === 12;
  const chords = same ? transposeChanges(chordEntriesOf(song), 0, key) : [];
  return chords.length > 0 ? [{ type: 'changes.put', remove: [], put: chords }] : [];
}

export function KeyEditor() {
  const { song, apply } = useSong();
  const { modal } = App.useApp();
  const value = song.key ? keyCode(song.key) : 'none';
  return (
    <Select
      className="chip"
      aria-label="Key of the song"
      showSearch={{
        filterOption: (typed, option) => {
          const key = option && 'value' in option ? KEYS.get(option.value) : undefined;
          return key !== undefined && matchesKey(key, typed);
        },
      }}
      value={value}
      options={KEY_OPTIONS}
      popupMatchSelectWidth={150}
      style={{ width: 116 }}
      labelRender={keyLabel}
      onChange={(chosen) => {
        const key = KEYS.get(chosen) ?? null;
        const setOnly = () =>
          apply(key ? `Set key to ${keyName(key)}` : 'Clear the key', {
            type: 'batch',
            edits: [{ type: 'song.set', patch: { key } }, ...respelling(song, key)],
          });
        const semitones = key && song.key ? semitonesBetween(song.key, key) : 0;
        if (!key || semitones === 0) setOnly();
        else askTransposing(modal, song, key, semitones, setOnly, apply);
      }}
    />
  );
}
