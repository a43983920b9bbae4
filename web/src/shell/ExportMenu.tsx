/** Saving the song as files: MIDI and the chord sheet. */
import { useState } from 'react';
import { Dropdown } from 'antd';
import { followedSong } from '@plundra/core/arranging';
import { writeSongMidi } from '@plundra/core/formats';
import { bracketedChords, chordEntriesOf, chordSheetText } from '@plundra/core/song';
import { Button, memoControl, Switch } from '../controls/index.tsx';
import { useSong } from '../song/SongContext.tsx';
import { saveFile } from '../api/saveFile.ts';

export const ExportMenu = memoControl(function ExportMenu() {
  return (
    <Dropdown trigger={['click']} popupRender={() => <ExportCard />}>
      <Button>Export</Button>
    </Dropdown>
  );
});

function ExportCard() {
  const { song, time } = useSong();
  const [bends, setBends] = useState(true);
  const noteParts = song.parts.filter((part) => part.kind !== 'recording');
  const notes = noteParts.reduce(
    (sum, part) => sum + part.passages.reduce((count, passage) => count + passage.notes.length, 0),
    0,
  );
  return (
    <div className="card" style={{ padding: 14, width: 280, boxShadow: '0 6px 20px #0002' }}>
      <strong>MIDI file</strong>
      <p className="quiet" style={{ margin: '4px 0 8px' }}>
        {noteParts.length === 0
          ? 'There are no note parts yet. Read a melody and make a note part of it first.'
          : `${noteParts.length} note ${noteParts.length === 1 ? 'part' : 'parts'}, ${notes} notes, tempo, metre and key. Recordings stay here.`}
      </p>
      <label className="row">
        With pitch bend{' '}
        <Switch size="small" checked={bends} onChange={setBends} aria-label="With pitch bend" />
      </label>
      <Button
        block
        type="primary"
        disabled={notes === 0}
        onClick={() =>
          saveFile(`${song.title}.mid`, 'audio/midi', writeSongMidi(followedSong(song), { bends }))
        }
      >
        Save MIDI file
      </Button>
      {chordEntriesOf(song).length > 0 && (
        <>
          <strong style={{ display: 'block', marginTop: 12 }}>Chord sheet</strong>
          <div className="actions">
            <Button
              onClick={() =>
                saveFile(
                  `${song.title}.txt`,
                  'text/plain',
                  new TextEncoder().encode(chordSheetText(song, time)),
                )
              }
            >
              Chords over bars
            </Button>
            <Button
              onClick={() =>
                saveFile(
                  `${song.title}.cho`,
                  'text/plain',
                  new TextEncoder().encode(bracketedChords(song, time)),
                )
              }
            >
              Chords in brackets
            </Button>
          </div>
        </>
      )}
    </div>
  );
}
