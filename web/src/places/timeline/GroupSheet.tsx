/** Side sheet of a group: its name and colour, and what can be done with it. */
import { Button, Input } from 'antd';
import { planUngroup, type Group, type Part, type PassagePlace } from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';
import { placesIn } from './passageTools.ts';
import { ColourChoice } from './ColourChoice.tsx';

interface Props {
  group: Group;
  parts: readonly Part[];
  set(group: Group, label: string, patch: Partial<Group>): void;
  select(places: readonly PassagePlace[]): void;
}

export function GroupSheet({ group, parts, set, select }: Props) {
  const { song, apply } = useSong();
  return (
    <aside className="side-sheet" aria-label="Side sheet">
      <Input
        key={`${group.id}-${group.name}`}
        aria-label="Name of the group"
        defaultValue={group.name}
        maxLength={120}
        style={{ fontWeight: 600 }}
        onBlur={(event) => {
          const name = event.target.value.trim();
          if (name && name !== group.name) set(group, 'Rename', { name });
        }}
        onPressEnter={(event) => event.currentTarget.blur()}
      />
      <div className="row" style={{ marginTop: 8 }}>
        <span className="label">Colour</span>
        <ColourChoice
          label="Colour of the group"
          value={group.colour}
          onChoose={(colour) => set(group, 'Colour', { colour })}
        />
      </div>
      <p className="quiet">
        {parts.map(({ name }) => name).join(', ')}. They are heard, folded and moved together; their levels
        meet in the level of the group. Drag a part among them, or out.
      </p>
      <div className="actions">
        <Button onClick={() => select(placesIn(parts))}>Select its passages</Button>
        <Button
          onClick={() => {
            const edit = planUngroup(song, group.id);
            if (edit) apply(`Ungroup ${group.name}`.slice(0, 200), edit);
          }}
        >
          Ungroup
        </Button>
      </div>
    </aside>
  );
}
