/** Groups of parts: heard, folded and moved together. A part names its group; the rows of a group stand one under another. */
import type { Edit, SimpleEdit } from './editSchema.ts';
import type { Group, Part, Song } from './schema.ts';

type Grouped = Pick<Song, 'parts' | 'groups'>;

const NONE: readonly Group[] = [];
export const groupsOf = (song: Pick<Song, 'groups'>): readonly Group[] => song.groups ?? NONE;

/** The group of a part; one whose group is gone has none. */
export function groupOf(song: Pick<Song, 'groups'>, { group }: Part): Group | undefined {
  return group === undefined ? undefined : groupsOf(song).find(({ id }) => id === group);
}

/** Whether a part is heard: neither it nor its group is muted, and where anything is soloed, it or its group is. */
export function isAudible(song: Grouped, part: Part): boolean {
  const group = groupOf(song, part);
  if (part.mute || group?.mute) return false;
  const anySolo =
    song.parts.some(({ solo }) => solo) ||
    groupsOf(song).some(({ id, solo }) => solo && song.parts.some((each) => each.group === id));
  return !anySolo || part.solo || group?.solo === true;
}

export type Row = { type: 'group'; group: Group; parts: Part[] } | { type: 'part'; part: Part };

/** What stands under what: a group where its first part does, with all of its parts behind it. */
export function partRows(song: Grouped): Row[] {
  const rows: Row[] = [];
  const shown = new Set<Group>();
  for (const part of song.parts) {
    const group = groupOf(song, part);
    if (!group) rows.push({ type: 'part', part });
    else if (!shown.has(group)) {
      shown.add(group);
      const parts = song.parts.filter((each) => each.group === group.id);
      rows.push({ type: 'group', group, parts }, ...parts.map((each): Row => ({ type: 'part', part: each })));
    }
  }
  return rows;
}

const asEdit = (edits: SimpleEdit[]): Edit | undefined =>
  edits.length === 0 ? undefined : edits.length === 1 ? edits[0] : { type: 'batch', edits };
const setGroups = (groups: Group[]): SimpleEdit => ({ type: 'song.set', patch: { groups } });
const putIn = (part: Part, group: string | undefined): SimpleEdit[] =>
  part.group === group ? [] : [{ type: 'part.set', partId: part.id, patch: { group: group ?? null } }];

/** The groups that still have a part, when parts belong to others. */
function stillUsed(song: Grouped, groupAfter: (part: Part) => string | undefined): Group[] {
  const used = new Set(song.parts.map(groupAfter));
  return groupsOf(song).filter(({ id }) => used.has(id));
}

/** Parts in a group: one that is there, a new one, or none. A group that has no part left goes. */
export function planGrouping(
  song: Grouped,
  partIds: readonly string[],
  group: Group | null,
): Edit | undefined {
  const moving = song.parts.filter(({ id }) => partIds.includes(id));
  const after = (part: Part) => (moving.includes(part) ? group?.id : part.group);
  const kept = stillUsed(song, after);
  const known = group === null || groupsOf(song).some(({ id }) => id === group.id);
  const groups = known ? kept : [...kept, group];
  const edits = moving.flatMap((part) => putIn(part, group?.id));
  const changed =
    groups.length !== groupsOf(song).length || groups.some((each, i) => each !== groupsOf(song)[i]);
  return asEdit([...(changed ? [setGroups(groups)] : []), ...edits]);
}

/** Its parts stand alone again. */
export function planUngroup(song: Grouped, groupId: string): Edit | undefined {
  return planGrouping(
    song,
    song.parts.filter(({ group }) => group === groupId).map(({ id }) => id),
    null,
  );
}

/** Fields of a group. */
export function planGroupSet(song: Grouped, groupId: string, patch: Partial<Omit<Group, 'id'>>): Edit {
  return setGroups(groupsOf(song).map((each) => (each.id === groupId ? { ...each, ...patch } : each)));
}

export const rowId = (row: Row): string => (row.type === 'group' ? row.group.id : row.part.id);

/**
 * A row goes where another stands, which makes room for it: behind it when it comes from above, else before it. A part that
 * comes among the parts of a group belongs to it; a group takes its parts along, and does not go into another.
 * @param folded groups of which only the row of the group is shown
 */
export function planMoveRow(
  song: Grouped,
  movingId: string,
  overId: string,
  folded: ReadonlySet<string>,
): Edit | undefined {
  const rows = partRows(song);
  const [from, over] = [movingId, overId].map((id) => rows.findIndex((row) => rowId(row) === id));
  if (from < 0 || over < 0 || from === over) return undefined;
  const down = over > from;
  const moving = rows[from];
  const target = rows[over];
  const movingParts = moving.type === 'group' ? moving.parts : [moving.part];
  if (target.type === 'part' && movingParts.includes(target.part)) return undefined;
  const others = rows
    .flatMap((row) => (row.type === 'part' ? [row.part] : []))
    .filter((part) => !movingParts.includes(part));
  const targetGroup = target.type === 'group' ? target.group : groupOf(song, target.part);
  // Among its parts: behind an open group's row, or before or behind a part of it.
  const joins =
    moving.type === 'part' &&
    targetGroup !== undefined &&
    (target.type === 'part' || (down && !folded.has(targetGroup.id)));
  const targetParts =
    target.type === 'group' || (moving.type === 'group' && targetGroup)
      ? others.filter(({ group }) => group !== undefined && group === targetGroup?.id)
      : [target.part];
  const [firstOf, lastOf] = [targetParts.at(0), targetParts.at(-1)];
  if (!firstOf || !lastOf) return undefined;
  const before = !down || (joins && target.type === 'group');
  const at = before ? others.indexOf(firstOf) : others.indexOf(lastOf) + 1;
  const order = [...others.slice(0, at), ...movingParts, ...others.slice(at)];
  const grouping =
    moving.type === 'part' ? planGrouping(song, [moving.part.id], joins ? targetGroup : null) : undefined;
  const edits = orderEdits(song.parts, order, movingParts);
  return asEdit([...(grouping ? (grouping.type === 'batch' ? grouping.edits : [grouping]) : []), ...edits]);
}

/** The moves that bring parts into an order; those that are meant to move go first. */
function orderEdits(parts: readonly Part[], order: readonly Part[], meant: readonly Part[]): SimpleEdit[] {
  const edits: SimpleEdit[] = [];
  let now = [...parts];
  const move = (part: Part) => {
    const index = order.indexOf(part);
    if (now.indexOf(part) === index) return;
    now = now.filter((each) => each !== part);
    now.splice(index, 0, part);
    edits.push({ type: 'part.move', partId: part.id, index });
  };
  const goesDown = meant.length > 0 && order.indexOf(meant[0]) > parts.indexOf(meant[0]);
  for (const part of goesDown ? meant.toReversed() : meant) move(part);
  for (const part of order) move(part);
  return edits;
}
