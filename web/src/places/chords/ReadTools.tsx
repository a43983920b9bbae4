/** What chords are read from, and reading them. */
import { useState } from 'react';
import { Button, Progress, Select } from 'antd';
import { useSong } from '../../song/SongContext.tsx';
import { waitingFor } from '../../song/waitingFor.ts';
import {
  chordSources,
  firstChordal,
  foundInNotes,
  ownChanges,
  recordingsToRead,
  settledChoice,
  type FoundChords,
} from './chordSources.ts';
import { hasOwnFrame } from './readTempo.ts';
import type { ChordsReadingUse } from './useChordsReading.ts';

export function ReadTools({
  reading,
  onFound,
  empty,
}: {
  reading: ChordsReadingUse;
  onFound(found: FoundChords): void;
  /** The song has no chords yet: reading them is what comes next. */
  empty: boolean;
}) {
  const { song, time } = useSong();
  const sources = chordSources(song);
  const { recordings, noteParts } = sources;
  const [asked, setAsked] = useState<string[] | null>(null);
  const all = [...recordings, ...noteParts];
  const first = firstChordal(recordings) ?? noteParts.at(0);
  const chosen = (asked ?? (first ? [first.id] : [])).filter((id) => all.some((part) => part.id === id));
  const chosenRecordings = recordings.filter(({ id }) => chosen.includes(id));
  const notes = noteParts.find(({ id }) => chosen.includes(id));
  const own =
    chosen.length === 1 && chosenRecordings[0]?.takes.some(({ chords }) => chords)
      ? chosenRecordings[0]
      : undefined;
  if (reading.status)
    return (
      <>
        <span className="quiet">Reading chords</span>
        <Progress percent={Math.round(100 * reading.status.progress)} style={{ width: 140 }} size="small" />
        {waitingFor(reading.status) && <span className="quiet">{waitingFor(reading.status)}</span>}
        <Button size="small" onClick={reading.cancel}>
          Stop
        </Button>
      </>
    );
  return (
    <>
      <Select
        aria-label="Read chords from"
        size="small"
        mode="multiple"
        style={{ width: 210 }}
        maxTagCount="responsive"
        maxTagPlaceholder={(hidden) =>
          hidden.length === chosen.length ? `${chosen.length} recordings` : `+ ${hidden.length}`
        }
        showSearch={false}
        placeholder={all.length === 0 ? 'No recording yet' : 'Nothing chosen'}
        value={chosen}
        disabled={all.length === 0}
        options={[
          {
            label: 'Recordings, one or several together',
            options: recordings.map(({ id, name }) => ({ value: id, label: name })),
          },
          { label: 'Note parts', options: noteParts.map(({ id, name }) => ({ value: id, label: name })) },
        ].filter(({ options }) => options.length > 0)}
        popupRender={(list) => (
          <>
            {recordings.length > 1 && (
              <Button
                type="text"
                size="small"
                style={{ margin: '2px 4px' }}
                onClick={() => setAsked(recordings.map(({ id }) => id))}
              >
                All recordings
              </Button>
            )}
            {list}
          </>
        )}
        onChange={(now) => setAsked(settledChoice(chosen, now, sources))}
      />
      <Button
        size="small"
        type={empty ? 'primary' : 'default'}
        disabled={chosen.length === 0}
        onClick={() => {
          if (notes) onFound(foundInNotes(notes, time));
          else reading.read(recordingsToRead(chosenRecordings, time, hasOwnFrame(song) ? 'fitting' : 'own'));
        }}
      >
        Read chords
      </Button>
      {own && (
        <Button size="small" type="text" onClick={() => onFound(ownChanges(own))}>
          Its own chords
        </Button>
      )}
    </>
  );
}
