/** The key of the song: choosing one, and asking whether the music moves with it. */
import { App } from 'antd';
import {
  chordEntriesOf,
  formatPosition,
  keyAt,
  keyChangesOf,
  planTranspose,
  semitonesBetween,
  transposeChanges,
  type SimpleEdit,
  type Song,
} from '@plundra/core/song';
import { keyName, type Key } from '@plundra/core/theory';
import { askTransposing } from '../song/askTransposing.tsx';
import { KeySelect } from '../song/KeySelect.tsx';
import { useSong } from '../song/SongContext.tsx';

/** Chords are written anew where a key is exchanged for one that sounds the same: D♭ becomes C♯. */
function respelling(song: Song, key: Key | null): SimpleEdit[] {
  const same = key && song.key && key.mode === song.key.mode && Math.abs(key.fifths - song.key.fifths) === 12;
  if (!same) return [];
  const until = keyChangesOf(song).at(0)?.startTicks ?? Infinity;
  const chords = chordEntriesOf(song).filter(({ startTicks }) => startTicks < until);
  const put = transposeChanges(chords, 0, () => key);
  return put.length > 0 ? [{ type: 'changes.put', remove: [], put }] : [];
}

export function KeyEditor() {
  const { song, time, apply } = useSong();
  const { modal } = App.useApp();
  const later = keyChangesOf(song).map(
    ({ startTicks, key }) => `${keyName(key)} from ${formatPosition(time.barAt(startTicks))}`,
  );
  return (
    <KeySelect
      className="chip"
      label="Key of the song"
      title={
        later.length > 0
          ? `${keyName(keyAt(song, 0) ?? keyChangesOf(song)[0].key)}, then ${later.join(', ')}`
          : undefined
      }
      none="Not set yet"
      noneShort="Key not set"
      width={116}
      value={song.key}
      onChoose={(key) => {
        const setOnly = () =>
          apply(key ? `Set key to ${keyName(key)}` : 'Clear the key', {
            type: 'batch',
            edits: [{ type: 'song.set', patch: { key } }, ...respelling(song, key)],
          });
        const semitones = key && song.key ? semitonesBetween(song.key, key) : 0;
        if (!key || !song.key || semitones === 0) return setOnly();
        const plan = planTranspose(song, key, semitones);
        askTransposing(modal, {
          from: song.key,
          to: key,
          where: '',
          semitones,
          moving: plan.moving.map((each) =>
            each.notes === 0
              ? `${each.name} (the whole recording)`
              : `${each.name} (${each.notes} notes${each.recording ? ', recording' : ''})`,
          ),
          staying: plan.staying.map((each) => `${each.name} (${each.reason})`),
          onNameOnly: setOnly,
          onTranspose: () => apply(`Transpose to ${keyName(key)}`, plan.edit),
        });
      }}
    />
  );
}
