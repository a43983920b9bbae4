/** Tempo and metre of the song, and what a new tempo does to what is there. */
import { useState } from 'react';
import { App, Popover } from 'antd';
import {
  beatNoteName,
  beatsPerMinute,
  planTempo,
  quartersPerMinute,
  tempoKeepsUnasked,
  tempoQuestion,
  type MetreEntry,
  type Song,
  type TempoKeeps,
  type TempoQuestion,
} from '@plundra/core/song';
import { BeatNote } from '../song/BeatNote.tsx';
import { Button, InputNumber, Select, memoControl } from '../controls/index.tsx';
import { useSong } from '../song/SongContext.tsx';

const rounded = (bpm: number) => Math.round(bpm * 100) / 100;

export function TempoEditor() {
  const { song, apply } = useSong();
  const { modal } = App.useApp();
  const [metre] = song.metreMap;
  const set = (bpm: number) => {
    const quarters = quartersPerMinute(bpm, metre);
    const setTo = (keeps: TempoKeeps) => apply(`Set tempo to ${bpm} bpm`, planTempo(song, quarters, keeps));
    const question = tempoQuestion(song);
    if (question) askTempo(modal, song, `${bpm} bpm`, question, setTo);
    else setTo(tempoKeepsUnasked(song));
  };
  return (
    <TempoChip
      bpm={rounded(beatsPerMinute(song.tempoMap[0].bpm, metre))}
      counts={beatNoteName(metre)}
      onSet={set}
    />
  );
}

/** Recordings keep their speed: what was made from them or laid over them can stay with them, or keep its bars. */
function askTempo(
  modal: ReturnType<typeof App.useApp>['modal'],
  song: Song,
  tempo: string,
  { apart, others }: TempoQuestion,
  setTo: (keeps: TempoKeeps) => void,
): void {
  const close = (keeps?: TempoKeeps) => {
    dialog.destroy();
    if (keeps) setTo(keeps);
  };
  const recordings = song.parts.filter(({ kind }) => kind === 'recording').map(({ name }) => name);
  const dialog = modal.info({
    icon: null,
    title: `Set the tempo to ${tempo}`,
    width: 520,
    content: (
      <>
        <p>
          Recordings keep their speed ({recordings.join(', ')}). What should happen to the notes and chords?
          One undo brings everything back.
        </p>
        <p>
          <b>Stay where they sound:</b> nothing that is heard moves; bars and beats move beneath it. Right
          when the tempo was wrong.
        </p>
        <p>
          <b>Keep their bars:</b> notes and chords play at the new tempo.{' '}
          {apart.length > 0
            ? `These would come apart from their recording: ${apart.map((each) => `${each.notes} (from ${each.recording})`).join(', ')}.`
            : `${others.length > 0 ? others.join(', ') : 'The chords'} would come apart from the recordings.`}
          {apart.length > 0 && others.length > 0 && ` So would ${others.join(', ')}.`}
        </p>
      </>
    ),
    footer: (
      <div style={{ display: 'flex', gap: 8, justifyContent: 'flex-end', marginTop: 12 }}>
        <Button onClick={() => close()}>Cancel</Button>
        <Button onClick={() => close('bars')}>Keep their bars</Button>
        <Button type="primary" onClick={() => close('sound')}>
          Stay where they sound
        </Button>
      </div>
    ),
  });
}

const TempoChip = memoControl(function TempoChip({
  bpm,
  counts,
  onSet,
}: {
  bpm: number;
  /** The note that a beat is. */
  counts: string;
  onSet: (bpm: number) => void;
}) {
  const [open, setOpen] = useState(false);
  const [draft, setDraft] = useState<number | null>(bpm);
  const [taps, setTaps] = useState<number[]>([]);
  const set = (next: number | null) => {
    if (next !== null && next >= 10 && next <= 400 && next !== bpm) onSet(next);
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
          <span className="quiet">Counts the {counts}.</span>
          <Button type="primary" onClick={() => set(draft)}>
            Set tempo
          </Button>
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

type Metre = Pick<MetreEntry, 'beats' | 'unit'>;

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
