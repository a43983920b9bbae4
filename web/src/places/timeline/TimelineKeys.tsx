/** Playing in on the Timeline: into the chosen part where that holds notes, else into a new one. */
import { useState } from 'react';
import type { NotePart, Part } from '@plundra/core/song';
import { instrumentOptions, type Sound } from '../../audio/instruments.ts';
import { Select } from '../../controls/index.tsx';
import { Overflow } from '../../controls/Overflow.tsx';
import { NoteKeys } from '../../song/keys/NoteKeys.tsx';
import { useSong } from '../../song/SongContext.tsx';

const NEW = '';
const FIRST_SOUND: Sound = 4;
const SOUNDS = [
  { label: 'Drums', options: [{ value: 'drums' as Sound, label: 'Drum kit' }] },
  ...instrumentOptions,
];

const holdsNotes = (part: Part | null | undefined): part is NotePart =>
  part !== null && part !== undefined && part.kind !== 'recording';

interface Props {
  chosen: Part | null;
  onTakes(partId: string): void;
}

export function TimelineKeys({ chosen, onTakes }: Props) {
  const { song } = useSong();
  const [sound, setSound] = useState<Sound>(FIRST_SOUND);
  // What was picked here counts until another part is chosen above.
  const [picked, setPicked] = useState<{ intoId: string; chosenId: string | undefined } | null>(null);
  const chosenId = chosen?.id;
  const parts = song.parts.filter(holdsNotes);
  const intoId =
    picked && picked.chosenId === chosenId ? picked.intoId : holdsNotes(chosen) ? chosen.id : NEW;
  const part = parts.find(({ id }) => id === intoId) ?? null;
  const program = part ? (part.kind === 'drums' ? 'drums' : part.program) : sound;
  return (
    <NoteKeys part={part} program={program} onTakes={onTakes}>
      <Overflow label={part ? 'Into' : 'Into, and the sound of the new part'}>
        <Select
          size="small"
          aria-label="Where it is played into"
          style={{ width: 156 }}
          value={part?.id ?? NEW}
          onChange={(id) => setPicked({ intoId: id, chosenId })}
          options={[
            { value: NEW, label: 'Into: a new part' },
            ...parts.map(({ id, name }) => ({ value: id, label: `Into: ${name}` })),
          ]}
        />
        {!part && (
          <Select<Sound>
            size="small"
            aria-label="Sound of the new part"
            style={{ width: 132 }}
            value={sound}
            onChange={setSound}
            options={SOUNDS}
          />
        )}
      </Overflow>
    </NoteKeys>
  );
}
