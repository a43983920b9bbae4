/** What a chord key plays: its chord by name, inversion, added tones and bass. */
import { useState } from 'react';
import { Button, Input, Select } from 'antd';
import { withTone } from '@plundra/core/arranging';
import type { ChordKey } from '@plundra/core/song';
import {
  chordSymbol,
  parseChord,
  prettyName,
  spellInKey,
  type Chord,
  type Degree,
} from '@plundra/core/theory';
import { useSong } from '../../song/SongContext.tsx';

const TONES: { degree: Degree; label: string }[] = [
  { degree: '9', label: '9' },
  { degree: '11', label: '11' },
  { degree: '6', label: '6' },
  { degree: 'b7', label: '7' },
  { degree: '7', label: 'maj7' },
];
const INVERSIONS = ['Root below', '1st inversion', '2nd inversion', '3rd inversion'];

export function ChordKeyEditor({
  index,
  value,
  onChange,
}: {
  index: number;
  value: ChordKey | null;
  onChange(key: ChordKey | null): void;
}) {
  const { song } = useSong();
  const symbol = value ? chordSymbol(value.chord) : '';
  const [text, setText] = useState<string | null>(null);
  const parsed = text === null || text.trim() === '' ? null : parseChord(text);
  const error = parsed && 'error' in parsed ? parsed.error : null;
  const take = () => {
    if (parsed && !('error' in parsed)) {
      onChange(parsed.chord && { chord: parsed.chord, inversion: value?.inversion ?? 0 });
      setText(null);
    }
  };
  const bass = (name: string | null): Chord => {
    const { root, degrees } = value!.chord;
    return name === null || name === root ? { root, degrees } : { root, degrees, bass: name };
  };
  return (
    <>
      <span className="label">Key {index + 1}</span>
      <Input
        size="small"
        style={{ width: 92 }}
        aria-label={`Chord of key ${index + 1}`}
        placeholder="Type a chord"
        value={text ?? symbol}
        status={error ? 'error' : undefined}
        onChange={(event) => setText(event.target.value)}
        onPressEnter={take}
        onBlur={() => (error ? undefined : take())}
      />
      {error && (
        <span className="chord-error" role="alert">
          {error}
        </span>
      )}
      {value && !error && (
        <>
          <Select
            size="small"
            aria-label="Inversion"
            style={{ width: 126 }}
            value={value.inversion}
            options={INVERSIONS.slice(0, value.chord.degrees.length).map((label, i) => ({ value: i, label }))}
            onChange={(inversion) => onChange({ ...value, inversion })}
          />
          <span className="chord-choices" aria-label="Added tones">
            {TONES.map(({ degree, label }) => (
              <Button
                key={degree}
                size="small"
                aria-pressed={value.chord.degrees.includes(degree)}
                type={value.chord.degrees.includes(degree) ? 'primary' : 'default'}
                onClick={() => onChange({ ...value, chord: withTone(value.chord, degree) })}
              >
                {label}
              </Button>
            ))}
          </span>
          <Select
            size="small"
            aria-label="Bass"
            style={{ width: 110 }}
            value={value.chord.bass ?? value.chord.root}
            options={Array.from({ length: 12 }, (_, pitchClass) => {
              const name = spellInKey(pitchClass, song.key);
              return { value: name, label: `Bass ${prettyName(name)}` };
            })}
            onChange={(name) => onChange({ ...value, chord: bass(name) })}
          />
          <Button size="small" type="text" onClick={() => onChange(null)}>
            Empty it
          </Button>
        </>
      )}
    </>
  );
}
