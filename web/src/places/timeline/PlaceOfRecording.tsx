/** Where a recording lies in the song: typed, moved so that a bar begins at the playhead, or by the beat that is found in it. */
import { useState } from 'react';
import { App, Button, Input, Progress } from 'antd';
import {
  formatPosition,
  parsePosition,
  planShift,
  secondsToBarLine,
  type RecordingPart,
} from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';
import { waitingFor } from '../../song/waitingFor.ts';
import { colours } from '../../theme/tokens.ts';
import { nearTempo, recordingsToRead, type FoundChords } from '../chords/chordSources.ts';
import { FoundTempo } from '../chords/FoundTempo.tsx';
import { firstTempo, planReadTempo, type ChosenTempo } from '../chords/readTempo.ts';
import { useChordsReading } from '../chords/useChordsReading.ts';

export function PlaceOfRecording({ part }: { part: RecordingPart }) {
  const { song, time, apply, engine } = useSong();
  const { message } = App.useApp();
  const startTicks = Math.min(...part.passages.map((passage) => passage.startTicks));
  const startSeconds = time.secondsAt(startTicks);
  const shift = (label: string, bySeconds: number) => {
    const edit = planShift(song, part.id, bySeconds);
    if (edit) apply(`${label} ${part.name}`, edit);
  };
  const beginBar = () => {
    const at = engine.positionSeconds();
    const by = secondsToBarLine(at, startSeconds, time);
    shift('Begin a bar in', by);
    const { bar } = time.barAt(Math.round(time.ticksAt(at + by)));
    engine.seek(at + by);
    void message.info(`Bar ${bar} begins here in ${part.name} now.`, 4);
  };
  return (
    <>
      <h3>Place in the song</h3>
      <StartField
        key={startTicks}
        value={formatPosition(time.barAt(startTicks))}
        onSet={(seconds) => shift('Move', seconds - startSeconds)}
      />
      <p className="quiet">← and → move it by a beat, with Alt by 5 ms. Notes made from it go along.</p>
      <div style={{ marginBottom: 8 }}>
        <Button
          block
          onClick={beginBar}
          title="Moves the recording so that what sounds at the playhead begins a bar. Put the playhead on a first beat before."
        >
          A bar begins at the playhead
        </Button>
      </div>
      <FindBeat key={part.id} part={part} />
    </>
  );
}

function StartField({ value, onSet }: { value: string; onSet(seconds: number): void }) {
  const { time } = useSong();
  const [draft, setDraft] = useState<string | null>(null);
  const position = draft === null ? undefined : parsePosition(draft);
  const bad = draft !== null && !position;
  const finish = () => {
    if (position && draft !== value) onSet(time.secondsAt(time.ticksOf(position)));
    setDraft(null);
  };
  return (
    <>
      <label className="row">
        <span className="label">Starts at</span>
        <Input
          size="small"
          className="numbers"
          aria-label="Start of the recording"
          style={{ width: 110, textAlign: 'right' }}
          status={bad ? 'error' : ''}
          value={draft ?? value}
          onChange={(event) => setDraft(event.target.value)}
          onBlur={finish}
          onPressEnter={(event) => event.currentTarget.blur()}
          onKeyDown={(event) => event.key === 'Escape' && setDraft(null)}
        />
      </label>
      {bad && <div style={{ color: colours.error, fontSize: 13 }}>Bar.beat.tick, for example 5.3.120</div>}
    </>
  );
}

/** What appears below what is seen comes into sight. */
const reveal = (element: HTMLElement | null) => element?.scrollIntoView({ block: 'nearest' });

type FoundBeat = FoundChords & Required<Pick<FoundChords, 'tempo'>>;

/** Tempo, metre and first bar from any recording, drums and lone lines too. */
function FindBeat({ part }: { part: RecordingPart }) {
  const { song, time, apply } = useSong();
  const [found, setFound] = useState<FoundBeat | null>(null);
  const [taken, setTaken] = useState<ChosenTempo | null>(null);
  const reading = useChordsReading((next) => {
    setFound(next.tempo ? { ...next, tempo: next.tempo } : null);
    setTaken(firstTempo(next.tempo));
  });
  if (reading.status)
    return (
      <div className="row">
        <span className="quiet">Finding the beat</span>
        <Progress percent={Math.round(100 * reading.status.progress)} style={{ flex: 1 }} size="small" />
        <Button size="small" onClick={reading.cancel}>
          Stop
        </Button>
        {waitingFor(reading.status) && <span className="quiet">{waitingFor(reading.status)}</span>}
      </div>
    );
  if (!found)
    return (
      <Button block onClick={() => reading.read(recordingsToRead([part], time))}>
        Find the beat
      </Button>
    );
  return (
    <div role="group" aria-label="The beat that was found" ref={reveal}>
      <FoundTempo
        found={found}
        tempo={found.tempo}
        busy={false}
        onChange={setTaken}
        onNear={(bpm) => reading.read(nearTempo(recordingsToRead([part], time), bpm))}
      />
      <p className="quiet">
        Recordings, and notes made from them, move together so that the first bar begins on a bar line. Other
        notes keep their bars.
      </p>
      <Button
        block
        type="primary"
        disabled={!taken}
        onClick={() => {
          if (!taken) return;
          const { edits } = planReadTempo(song, time, found, taken);
          apply(`Take the tempo of ${part.name}`, { type: 'batch', edits });
          setFound(null);
        }}
      >
        Set tempo, metre and first bar
      </Button>
      <Button block type="text" onClick={() => setFound(null)}>
        Leave it
      </Button>
    </div>
  );
}
