/** Saving the song as files: sound, MIDI and the chord sheet. */
import { useState } from 'react';
import { Dropdown } from 'antd';
import { followedSong } from '@plundra/core/arranging';
import { writeSongMidi } from '@plundra/core/formats';
import { chosenPassages, bracketedChords, chordEntriesOf, chordSheetText } from '@plundra/core/song';
import { Button, memoControl, Switch } from '../controls/index.tsx';
import { useSong } from '../song/SongContext.tsx';
import { saveFile } from '../api/saveFile.ts';
import { SoundSheet } from './SoundSheet.tsx';

export const ExportMenu = memoControl(function ExportMenu() {
  const [open, setOpen] = useState(false);
  const [ofSound, setOfSound] = useState(false);
  const openSound = () => {
    setOpen(false);
    setOfSound(true);
  };
  return (
    <>
      <Dropdown
        trigger={['click']}
        open={open}
        onOpenChange={setOpen}
        popupRender={() => <ExportCard onSound={openSound} />}
      >
        <Button>Export</Button>
      </Dropdown>
      {ofSound && <SoundSheet onClose={() => setOfSound(false)} />}
    </>
  );
});

function ExportCard({ onSound }: { onSound(): void }) {
  const { song, time } = useSong();
  const [bends, setBends] = useState(true);
  const noteParts = song.parts.filter((part) => part.kind !== 'recording');
  const notes = noteParts.reduce(
    (sum, part) => sum + chosenPassages(part).reduce((count, passage) => count + passage.notes.length, 0),
    0,
  );
  return (
    <div className="card" style={{ padding: 14, width: 280, boxShadow: '0 6px 20px #0002' }}>
      <strong>Sound</strong>
      <p className="quiet" style={{ margin: '4px 0 8px' }}>
        The song as it sounds, a stretch of it, or some of its parts.
      </p>
      <Button block type="primary" disabled={song.parts.length === 0} onClick={onSound}>
        Save as sound …
      </Button>
      <strong style={{ display: 'block', marginTop: 12 }}>MIDI file</strong>
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
