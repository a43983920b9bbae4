/** Tempo and metre that were read: halved, doubled, counted otherwise, and their beats put right, before they are taken. */
import { useMemo, useState } from 'react';
import { Button, Segmented, Select } from 'antd';
import type { ChordsResult } from '@plundra/contract';
import {
  barsFrom,
  beatNoteName,
  FASTEST_BPM,
  firstDownbeat,
  playedTempo,
  quartersPerMinute,
  SLOWEST_BPM,
  type HeardBeats,
  type PlayedTempo,
} from '@plundra/core/song';
import { BeatNote } from '../../song/BeatNote.tsx';
import { beatsInBar } from './beats/beatPlaces.ts';
import { BeatsWindow, type BeatsFound } from './beats/BeatsWindow.tsx';
import {
  correctedTempo,
  firstTempo,
  heardMetre,
  METRES,
  tempoOf,
  wasPlayedFreely,
  type ChosenTempo,
} from './readTempo.ts';

const bpmText = (bpm: number) => (Number.isInteger(bpm) ? String(bpm) : bpm.toFixed(1));
const rangeText = ({ slowestBpm, fastestBpm }: PlayedTempo) =>
  `${Math.round(slowestBpm)}–${Math.round(fastestBpm)}`;

interface Props {
  found: BeatsFound;
  tempo: ChordsResult['tempo'];
  /** Null: there are no beats, or too few to make a tempo. */
  onChange(taken: ChosenTempo | null): void;
}

interface Choice {
  /** As it was read, or with its beats put right. */
  tempo: ChordsResult['tempo'];
  /** By which its beats are counted otherwise. */
  factor: number;
  metreText: string;
  asPlayed: boolean;
}

const takenOf = ({ tempo, factor, metreText, asPlayed }: Choice): ChosenTempo | null =>
  tempo.bpm > 0 ? tempoOf(tempo, factor, metreText, asPlayed) : null;

export function FoundTempo({ found, tempo: read, onChange }: Props) {
  const heard = heardMetre(read);
  const [choice, setChoice] = useState<Choice>(() => ({
    tempo: read,
    factor: 1,
    metreText: heard,
    asPlayed: firstTempo(read)?.asPlayed === true,
  }));
  const [checking, setChecking] = useState(false);
  const { factor, metreText, asPlayed } = choice;
  const taken = useMemo(() => takenOf(choice), [choice]);
  const changing = useMemo(() => taken && playedTempo(taken.heard), [taken]);
  const metre = METRES.get(metreText)!;
  const perBar = beatsInBar(metre);
  const counts = beatNoteName(metre);
  const set = (change: Partial<Choice>) => {
    const next = { ...choice, ...change };
    setChoice(next);
    onChange(takenOf(next));
  };
  const putRight = (beats: HeardBeats) => {
    const tempo = correctedTempo(choice.tempo, factor, beats);
    const isFree = tempo.bpm !== choice.tempo.bpm * factor && wasPlayedFreely(tempo);
    set({ tempo, factor: 1, asPlayed: asPlayed || isFree });
  };
  const shiftBars = (by: number) =>
    taken && putRight(barsFrom(taken.heard, firstDownbeat(taken.heard) + by, perBar));
  return (
    <>
      {taken ? (
        <>
          <div className="row">
            <span className="label">Tempo</span>
            <span className="numbers" title={`A beat is a ${counts}`}>
              <BeatNote counts={counts} /> {changing && asPlayed ? rangeText(changing) : bpmText(taken.bpm)}{' '}
              bpm
            </span>
            <span className="chord-choices">
              <Button
                size="small"
                aria-label="Half the tempo"
                disabled={quartersPerMinute(taken.bpm / 2, metre) < SLOWEST_BPM}
                onClick={() => set({ factor: factor / 2 })}
              >
                ÷ 2
              </Button>
              <Button
                size="small"
                aria-label="Twice the tempo"
                disabled={quartersPerMinute(taken.bpm * 2, metre) > FASTEST_BPM}
                onClick={() => set({ factor: factor * 2 })}
              >
                × 2
              </Button>
            </span>
          </div>
          {changing && (
            <>
              <Segmented
                block
                size="small"
                aria-label="How the tempo goes"
                value={asPlayed ? 'played' : 'one'}
                options={[
                  { value: 'one', label: 'One tempo' },
                  { value: 'played', label: 'As it was played' },
                ]}
                onChange={(value) => set({ asPlayed: value === 'played' })}
              />
              <p className="quiet">
                {asPlayed
                  ? 'The tempo changes as it was played: beats and bars lie where they are heard.'
                  : `It was not played quite evenly: half of the beats would lie more than ${changing.apartSeconds.toFixed(2)} s beside those that are heard.`}
              </p>
            </>
          )}
          <div className="row">
            <span className="label">Metre</span>
            <Select
              aria-label="Metre that was read"
              size="small"
              style={{ width: 84 }}
              value={metreText}
              options={[...METRES.keys()].map((value) => ({ value, label: value }))}
              onChange={(value) => set({ metreText: value })}
            />
          </div>
          <p className="quiet">
            {metreText === heard ? 'As it was heard' : `Heard as ${heard}`}; a beat is a {counts}.
          </p>
          <div className="row">
            <span className="label">Bars begin</span>
            <span className="chord-choices">
              <Button size="small" title="Each bar begins a beat earlier" onClick={() => shiftBars(-1)}>
                Earlier
              </Button>
              <Button size="small" title="Each bar begins a beat later" onClick={() => shiftBars(1)}>
                Later
              </Button>
            </span>
          </div>
        </>
      ) : (
        <p className="quiet">
          No steady beat was found in {found.name}. Tap the beats while it plays, or set the tempo above.
        </p>
      )}
      <Button block style={{ margin: '6px 0' }} onClick={() => setChecking(true)}>
        {taken ? 'Check the beats' : 'Tap the beats'}
      </Button>
      {checking && (
        <BeatsWindow
          found={found}
          heard={taken?.heard ?? { beats: [], downbeats: [] }}
          perBar={perBar}
          onUse={(beats) => {
            setChecking(false);
            putRight(beats);
          }}
          onClose={() => setChecking(false)}
        />
      )}
    </>
  );
}
