/** Tempo and metre of the song, and what a new tempo does to what is there. */
import { useState } from 'react';
import { useQueryClient, type QueryClient } from '@tanstack/react-query';
import { App, Popover } from 'antd';
import {
  beatNoteName,
  beatsPerMinute,
  chordEntriesOf,
  planTempo,
  quartersPerMinute,
  recordingsOf,
  tempoKeepsUnasked,
  tempoQuestion,
  type Metre,
  type MetreEntry,
  type Song,
  type TempoKeeps,
  type TempoQuestion,
} from '@plundra/core/song';
import { BeatNote } from '../song/BeatNote.tsx';
import { Button, InputNumber, Select, memoControl } from '../controls/index.tsx';
import { LONGEST_STRETCHED_SECONDS } from '../places/timeline/passageTools.ts';
import { useSong } from '../song/SongContext.tsx';
import { recordingQuery } from '../song/queries.ts';

const rounded = (bpm: number) => Math.round(bpm * 100) / 100;

export function TempoEditor() {
  const { song, apply } = useSong();
  const { modal } = App.useApp();
  const [metre] = song.metreMap;
  const changes = song.tempoMap.length > 1;
  const client = useQueryClient();
  const set = (bpm: number, throughout: boolean) => {
    const quarters = quartersPerMinute(bpm, metre);
    const setTo = (keeps: TempoKeeps) =>
      apply(
        throughout ? `One tempo of ${bpm} bpm` : `Set tempo to ${bpm} bpm`,
        planTempo(song, quarters, keeps, throughout),
      );
    const question = tempoQuestion(song, throughout);
    if (question)
      void tooLongOf(song, client).then((tooLong) =>
        askTempo(modal, song, { tempo: `${bpm} bpm`, throughout, question, tooLong }, setTo),
      );
    else setTo(tempoKeepsUnasked(song));
  };
  return (
    <TempoChip
      bpm={rounded(beatsPerMinute(song.tempoMap[0].bpm, metre))}
      counts={beatNoteName(metre)}
      changes={changes}
      onSet={set}
    />
  );
}

/** The name of a part that cannot go along; what cannot be asked just now is taken for short, as most are. */
async function tooLongOf({ parts }: Song, client: QueryClient): Promise<string | undefined> {
  const isLong = async (hash: string) => {
    const recording = await client.ensureQueryData(recordingQuery(hash)).catch(() => undefined);
    return (recording?.durationSeconds ?? 0) > LONGEST_STRETCHED_SECONDS;
  };
  const long = await Promise.all(
    parts.map(async (part) => (await Promise.all(recordingsOf(part).map(isLong))).includes(true)),
  );
  return parts.find((_, i) => long[i])?.name;
}

interface Asked {
  tempo: string;
  /** It takes the place of a tempo that changes: then recordings were mostly played so, and are to be evened out. */
  throughout: boolean;
  question: TempoQuestion;
  /** A part whose recording is too long to go along. */
  tooLong: string | undefined;
}

/** Recordings keep their speed: what was made from them or laid over them can stay with them, or keep its bars. */
function askTempo(
  modal: ReturnType<typeof App.useApp>['modal'],
  song: Song,
  { tempo, throughout, question: { apart, others }, tooLong }: Asked,
  setTo: (keeps: TempoKeeps) => void,
): void {
  const close = (keeps?: TempoKeeps) => {
    dialog.destroy();
    if (keeps) setTo(keeps);
  };
  const recordings = song.parts.filter(({ kind }) => kind === 'recording').map(({ name }) => name);
  const dialog = modal.info({
    icon: null,
    title: throughout ? `One tempo of ${tempo}` : `Set the tempo to ${tempo}`,
    width: 600,
    content: (
      <>
        <p>
          Recordings keep their speed ({recordings.join(', ')}) unless you let them go along. What should
          happen? One undo brings everything back.
        </p>
        <p>
          <b>Stay where they sound:</b> nothing that is heard moves; bars and beats move beneath it. Right
          when the tempo was wrong.
        </p>
        <p>
          <b>Keep their bars:</b> notes and chords play at the new tempo.{' '}
          {apart.length > 0
            ? `These would come apart from their recording: ${apart.map((each) => `${each.notes} (from ${each.recording})`).join(', ')}.`
            : others.length > 0
              ? `${others.join(', ')} would come apart from the recordings.`
              : chordEntriesOf(song).length > 0 && 'The chords would come apart from the recordings.'}
          {apart.length > 0 && others.length > 0 && ` So would ${others.join(', ')}.`}
        </p>
        <p>
          <b>Recordings go along:</b> everything keeps its bars; recordings are played slower or faster, at
          the same pitch, and follow the tempo from now on.
          {tooLong && ` ${tooLong} is longer than 20 minutes and cannot.`}
        </p>
      </>
    ),
    footer: (
      <div style={{ display: 'flex', flexWrap: 'wrap', gap: 8, justifyContent: 'flex-end', marginTop: 12 }}>
        <Button onClick={() => close()}>Cancel</Button>
        <Button onClick={() => close('bars')}>Keep their bars</Button>
        <Button
          type={throughout && !tooLong ? 'primary' : 'default'}
          disabled={tooLong !== undefined}
          onClick={() => close('all')}
        >
          Recordings go along
        </Button>
        <Button type={throughout && !tooLong ? 'default' : 'primary'} onClick={() => close('sound')}>
          Stay where they sound
        </Button>
      </div>
    ),
  });
}

const TempoChip = memoControl(function TempoChip({
  bpm,
  counts,
  changes,
  onSet,
}: {
  bpm: number;
  /** The note that a beat is. */
  counts: string;
  /** There are other tempi behind the first. */
  changes: boolean;
  onSet: (bpm: number, throughout: boolean) => void;
}) {
  const [open, setOpen] = useState(false);
  const [draft, setDraft] = useState<number | null>(bpm);
  const [taps, setTaps] = useState<number[]>([]);
  const set = (next: number | null, throughout = false) => {
    if (next !== null && next >= 10 && next <= 400 && (next !== bpm || throughout)) onSet(next, throughout);
    setOpen(false);
  };
  const tap = () => {
    const now = performance.now();
    const recent = [...taps.filter((time) => now - time < 6000), now].slice(-8);
    setTaps(recent);
    if (recent.length >= 3)
      setDraft(Math.round(((recent.length - 1) * 60000) / (recent[recent.length - 1] - recent[0])));
  };
  return (
    <Popover
      open={open}
      onOpenChange={(next) => {
        setDraft(bpm);
        setTaps([]);
        setOpen(next);
      }}
      trigger="click"
      content={
        <div style={{ display: 'grid', gap: 8, width: 210 }}>
          <div style={{ display: 'flex', gap: 8 }}>
            <InputNumber
              aria-label="Tempo in bpm"
              autoFocus
              min={10}
              max={400}
              value={draft}
              onChange={setDraft}
              onPressEnter={() => set(draft)}
              suffix="bpm"
              style={{ flex: 1 }}
            />
            <Button onClick={tap}>Tap</Button>
          </div>
          <span className="quiet">
            Counts the {counts}.{changes && ' It is the first tempo; others follow.'}
          </span>
          <Button type="primary" onClick={() => set(draft)}>
            {changes ? 'Set the first tempo' : 'Set tempo'}
          </Button>
          {changes && <Button onClick={() => set(draft, true)}>One tempo throughout</Button>}
        </div>
      }
    >
      <Button
        className="chip numbers"
        aria-label={`Tempo ${bpm} bpm`}
        title={`Beats a minute; a beat is a ${counts}`}
      >
        <BeatNote counts={counts} /> {bpm} bpm
      </Button>
    </Popover>
  );
});

export function MetreEditor() {
  const { song, apply } = useSong();
  const { beats, unit } = song.metreMap[0];
  return (
    <MetreChip
      beats={beats}
      unit={unit}
      onSet={(metre) =>
        apply(`Set metre to ${metre.beats}/${metre.unit}`, {
          type: 'song.set',
          patch: { metreMap: [{ startTicks: 0, ...metre }, ...song.metreMap.slice(1)] },
        })
      }
    />
  );
}

const MetreChip = memoControl(function MetreChip({
  beats,
  unit,
  onSet,
}: Metre & { onSet: (metre: Metre) => void }) {
  const [open, setOpen] = useState(false);
  const [draft, setDraft] = useState({ beats, unit });
  const set = () => {
    if (draft.beats !== beats || draft.unit !== unit) onSet(draft);
    setOpen(false);
  };
  const units = [2, 4, 8, 16].map((value) => ({ value: value as MetreEntry['unit'], label: String(value) }));
  return (
    <Popover
      open={open}
      onOpenChange={(next) => {
        setDraft({ beats, unit });
        setOpen(next);
      }}
      trigger="click"
      content={
        <div style={{ display: 'flex', gap: 8, alignItems: 'center' }}>
          <InputNumber
            aria-label="Beats in a bar"
            min={1}
            max={32}
            value={draft.beats}
            onChange={(value) => setDraft({ ...draft, beats: value ?? 4 })}
            style={{ width: 70 }}
          />
          /
          <Select
            aria-label="Note value of a beat"
            value={draft.unit}
            options={units}
            onChange={(value) => setDraft({ ...draft, unit: value })}
            style={{ width: 70 }}
          />
          <Button type="primary" onClick={set}>
            Set
          </Button>
        </div>
      }
    >
      <Button className="chip numbers" aria-label={`Metre ${beats}/${unit}`}>
        {beats}/{unit}
      </Button>
    </Popover>
  );
});
