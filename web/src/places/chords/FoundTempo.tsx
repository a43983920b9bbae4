/** Tempo and metre that were read, to be halved, doubled and counted otherwise before they are taken. */
import { useMemo, useState } from 'react';
import { Button, Segmented, Select } from 'antd';
import type { ChordsResult } from '@plundra/contract';
import {
  beatNoteName,
  countedBeats,
  FASTEST_BPM,
  playedTempo,
  quartersPerMinute,
  SLOWEST_BPM,
  type PlayedTempo,
} from '@plundra/core/song';
import { BeatNote } from '../../song/BeatNote.tsx';
import { firstTempo, heardMetre, METRES, tempoOf, type ChosenTempo } from './readTempo.ts';

type ReadTempo = ChordsResult['tempo'];

const bpmText = (bpm: number) => (Number.isInteger(bpm) ? String(bpm) : bpm.toFixed(1));
const rangeText = ({ slowestBpm, fastestBpm }: PlayedTempo) =>
  `${Math.round(slowestBpm)}–${Math.round(fastestBpm)}`;

export function FoundTempo({ tempo, onChange }: { tempo: ReadTempo; onChange(taken: ChosenTempo): void }) {
  const heard = heardMetre(tempo);
  const [factor, setFactor] = useState(1);
  const [metreText, setMetreText] = useState(heard);
  const [asPlayed, setAsPlayed] = useState(() => firstTempo(tempo)?.played !== undefined);
  const { bpm, metre } = tempoOf(tempo, factor, metreText, asPlayed);
  const changing = useMemo(() => playedTempo(countedBeats(tempo, factor)), [tempo, factor]);
  const counts = beatNoteName(metre);
  const set = (nextFactor: number, nextMetre: string, nextAsPlayed: boolean) => {
    setFactor(nextFactor);
    setMetreText(nextMetre);
    setAsPlayed(nextAsPlayed);
    onChange(tempoOf(tempo, nextFactor, nextMetre, nextAsPlayed));
  };
  return (
    <>
      <div className="row">
        <span className="label">Tempo</span>
        <span className="numbers" title={`A beat is a ${counts}`}>
          <BeatNote counts={counts} /> {changing && asPlayed ? rangeText(changing) : bpmText(bpm)} bpm
        </span>
        <span className="chord-choices">
          <Button
            size="small"
            aria-label="Half the tempo"
            disabled={quartersPerMinute(bpm / 2, metre) < SLOWEST_BPM}
            onClick={() => set(factor / 2, metreText, asPlayed)}
          >
            ÷ 2
          </Button>
          <Button
            size="small"
            aria-label="Twice the tempo"
            disabled={quartersPerMinute(bpm * 2, metre) > FASTEST_BPM}
            onClick={() => set(factor * 2, metreText, asPlayed)}
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
            onChange={(value) => set(factor, metreText, value === 'played')}
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
          onChange={(value) => set(factor, value, asPlayed)}
        />
      </div>
      <p className="quiet">
        {metreText === heard ? 'As it was heard' : `Heard as ${heard}`}; a beat is a {counts}.
      </p>
    </>
  );
}
