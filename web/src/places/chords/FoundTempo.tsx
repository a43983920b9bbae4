/** Tempo and metre that were read, to be halved, doubled and counted otherwise before they are taken. */
import { useState } from 'react';
import { Button, Select } from 'antd';
import type { ChordsResult } from '@plundra/contract';
import { beatNoteName } from '@plundra/core/song';
import { BeatNote } from '../../song/BeatNote.tsx';
import { heardMetre, METRES, tempoOf, type ChosenTempo } from './readTempo.ts';

type ReadTempo = ChordsResult['tempo'];

export function FoundTempo({ tempo, onChange }: { tempo: ReadTempo; onChange(taken: ChosenTempo): void }) {
  const heard = heardMetre(tempo);
  const [factor, setFactor] = useState(1);
  const [metreText, setMetreText] = useState(heard);
  const { bpm, metre } = tempoOf(tempo, factor, metreText);
  const counts = beatNoteName(metre);
  const set = (nextFactor: number, nextMetre: string) => {
    setFactor(nextFactor);
    setMetreText(nextMetre);
    onChange(tempoOf(tempo, nextFactor, nextMetre));
  };
  return (
    <>
      <div className="row">
        <span className="label">Tempo</span>
        <span className="numbers" title={`A beat is a ${counts}`}>
          <BeatNote counts={counts} /> {Number.isInteger(bpm) ? bpm : bpm.toFixed(1)} bpm
        </span>
        <span className="chord-choices">
          <Button size="small" aria-label="Half the tempo" onClick={() => set(factor / 2, metreText)}>
            ÷ 2
          </Button>
          <Button size="small" aria-label="Twice the tempo" onClick={() => set(factor * 2, metreText)}>
            × 2
          </Button>
        </span>
      </div>
      <div className="row">
        <span className="label">Metre</span>
        <Select
          aria-label="Metre that was read"
          size="small"
          style={{ width: 84 }}
          value={metreText}
          options={[...METRES.keys()].map((value) => ({ value, label: value }))}
          onChange={(value) => set(factor, value)}
        />
      </div>
      <p className="quiet">
        {metreText === heard ? 'As it was heard' : `Heard as ${heard}`}; a beat is a {counts}.
      </p>
    </>
  );
}
