import type { NotePart } from '@plundra/core/song';
import { Select } from '../../controls/index.tsx';
import { instrumentOptions } from '../../audio/instruments.ts';
import { useSong } from '../../song/SongContext.tsx';

/** Chooses the sound of a note part by ear. */
export function SoundOfPart({ part }: { part: NotePart }) {
  const { apply, engine } = useSong();
  if (part.kind !== 'notes') return null;
  return (
    <>
      <h3>Sound of the part</h3>
      <Select
        aria-label="Sound of the part"
        style={{ width: '100%' }}
        value={part.program}
        options={instrumentOptions}
        onChange={(program) => {
          apply(`Set sound of ${part.name}`, { type: 'part.set', partId: part.id, patch: { program } });
          void engine.live.preview(67, 95, program);
        }}
      />
    </>
  );
}
