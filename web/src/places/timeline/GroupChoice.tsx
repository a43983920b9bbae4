/** The group that a part stands in: one that is there, a new one, or none. */
import { Select } from 'antd';
import { groupOf, groupsOf, planGrouping, type Group, type Part } from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';

const NONE = '';
const NEW = 'new';

/** "Group", "Group 2": a name that no group has yet. */
export function newGroup(groups: readonly Group[], colour: number, createId: () => string): Group {
  const names = new Set(groups.map(({ name }) => name));
  let name = 'Group';
  for (let k = 2; names.has(name); k++) name = `Group ${k}`;
  return { id: createId(), name, colour, levelDb: 0, mute: false, solo: false };
}

export function GroupChoice({ part }: { part: Part }) {
  const { song, apply } = useSong();
  const groups = groupsOf(song);
  const choose = (value: string) => {
    const group =
      value === NEW
        ? newGroup(groups, part.colour, () => crypto.randomUUID())
        : (groups.find(({ id }) => id === value) ?? null);
    const edit = planGrouping(song, [part.id], group);
    if (edit)
      apply(
        `${group ? `Put ${part.name} into ${group.name}` : `Take ${part.name} out of its group`}`.slice(
          0,
          200,
        ),
        edit,
      );
  };
  return (
    <div className="row">
      <span className="label">Group</span>
      <Select
        aria-label="Group of the part"
        style={{ width: 140 }}
        value={groupOf(song, part)?.id ?? NONE}
        options={[
          { value: NONE, label: 'None' },
          ...groups.map(({ id, name }) => ({ value: id, label: name })),
          { value: NEW, label: 'New group' },
        ]}
        onChange={choose}
      />
    </div>
  );
}
