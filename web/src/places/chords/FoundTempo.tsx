/** Tempo and metre that were read: halved, doubled, counted otherwise, and their beats put right, before they are taken. */
import { useMemo, useState } from 'react';
import { Button, Segmented, Select } from 'antd';
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
import { AmountField } from '../../controls/AmountField.tsx';
import { BeatNote } from '../../song/BeatNote.tsx';
import { beatsInBar } from './beats/beatPlaces.ts';
import { BeatsWindow, type BeatsFound } from './beats/BeatsWindow.tsx';
import {
  correctedTempo,
  firstTempo,
  heardMetre,
  METRES,
  octavesToTempo,
  tempoOf,
  wasPlayedFreely,
  withinNear,
  type ChosenTempo,
  type ReadTempo,
} from './readTempo.ts';

const rangeText = ({ slowestBpm, fastestBpm }: PlayedTempo) =>
  `${Math.round(slowestBpm)} to ${Math.round(fastestBpm)}`;

interface Props {
  found: BeatsFound;
  tempo: ReadTempo;
  /** It is read again. */
  busy: boolean;
  /** Null: there are no beats, or too few to make a tempo. */
  onChange(taken: ChosenTempo | null): void;
  /** Beats were put right: what was read over them is to be read again. */
  onPutRight?(tempo: ReadTempo, asPlayed: boolean): void;
  /** To be read again at about a tempo. */
  onNear(bpm: number): void;
}

interface Choice {
  /** As it was read, or with its beats put right. */
  tempo: ReadTempo;
  /** By which its beats are counted otherwise. */
  factor: number;
  metreText: string;
  asPlayed: boolean;
  /** Typed: what was read is this exactly. */
  bpm?: number;
}

function takenOf({ tempo, factor, metreText, asPlayed, bpm }: Choice): ChosenTempo | null {
  if (tempo.bpm <= 0) return null;
  const taken = tempoOf(tempo, factor, metreText, asPlayed);
  return bpm === undefined ? taken : { ...taken, bpm };
}

export function FoundTempo({ found, tempo: read, busy, onChange, onPutRight, onNear }: Props) {
  const heard = heardMetre(read);
  const [choice, setChoice] = useState<Choice>(() => ({
    tempo: read,
    factor: 1,
    metreText: heard,
    asPlayed: firstTempo(read, found.asPlayed)?.asPlayed === true,
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
    const tempo = correctedTempo(choice.tempo, factor, beats, metre);
    const next = { tempo, factor: 1, asPlayed: asPlayed || wasPlayedFreely(tempo), bpm: undefined };
    set(next);
    return next;
  };
  const shiftBars = (by: number) => {
    if (!taken) return;
    const beats = barsFrom(taken.heard, firstDownbeat(taken.heard) + by, perBar);
    set({ tempo: correctedTempo(choice.tempo, factor, beats, metre), factor: 1 });
  };
  const count = (octaves: number, bpm = choice.bpm && choice.bpm * 2 ** octaves) =>
    set({ factor: factor * 2 ** octaves, bpm });
  const type = (bpm: number) => {
    const octaves = taken && octavesToTempo(taken.bpm, bpm);
    if (octaves === null) onNear(withinNear(bpm));
    else set({ factor: factor * 2 ** octaves, bpm, asPlayed: false });
  };
  return (
    <>
      {taken ? (
        <>
          <div className="row">
            <span className="label">Tempo</span>
            <span title={`A beat is a ${counts}. Another tempo is looked for when it is typed`}>
              <BeatNote counts={counts} />{' '}
              <AmountField
                label="Tempo that was read"
                value={taken.bpm}
                min={SLOWEST_BPM}
                max={FASTEST_BPM}
                decimals={1}
                width={64}
                steps={false}
                disabled={busy}
                onSet={type}
              />
            </span>
            <span className="chord-choices">
              <Button
                size="small"
                aria-label="Half the tempo"
                disabled={quartersPerMinute(taken.bpm / 2, metre) < SLOWEST_BPM}
                onClick={() => count(-1)}
              >
                ÷ 2
              </Button>
              <Button
                size="small"
                aria-label="Twice the tempo"
                disabled={quartersPerMinute(taken.bpm * 2, metre) > FASTEST_BPM}
                onClick={() => count(1)}
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
                  ? `The tempo changes as it was played, ${rangeText(changing)} bpm: beats and bars lie where they are heard.`
                  : `It was not played quite evenly: half of the beats would lie more than ${changing.apartSeconds.toFixed(2)} s beside those that are heard.`}
              </p>
            </>
          )}
          <div className="row" title={`A beat is a ${counts}`}>
            <span className="label">Metre</span>
            {metreText !== heard && <span className="quiet">heard as {heard}</span>}
            <Select
              aria-label="Metre that was read"
              size="small"
              style={{ width: 84 }}
              value={metreText}
              options={[...METRES.keys()].map((value) => ({ value, label: value }))}
              onChange={(value) => set({ metreText: value })}
            />
          </div>
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
            const { tempo, asPlayed: follows } = putRight(beats);
            onPutRight?.(tempo, follows);
          }}
          onClose={() => setChecking(false)}
        />
      )}
    </>
  );
}
