/** A section moved to another place with everything in it; what lay between closes up behind it. */
import type { Ticks } from '../signal/index.ts';
import { sameKey } from '../theory/index.ts';
import { changeAt, chordEntriesOf, songEndTicks } from './changes.ts';
import { applyEdit } from './edit.ts';
import { EditError, type Edit, type SimpleEdit } from './editSchema.ts';
import { keyAt, keyChangesOf } from './keys.ts';
import type { ChordEntry, KeyChange, MetreEntry, Passage, Section, Song } from './schema.ts';
import { cutPickups, cutsAcross, isPickup, sectionEndTicks, sectionsOf } from './sections.ts';
import { createTimeMap } from './timeMap.ts';

/**
 * Moves a section so that it begins at a tick. The stretch it passes goes the other way by as much, so that the song keeps
 * its length: what sounds across an edge of either is cut there, chords, keys and metres go along. The tempo stays where it
 * is: it belongs to the place. Undefined where the section stays; throws {@link EditError} where it would begin before the song.
 */
export function planSectionMove(
  song: Song,
  section: Section,
  toTicks: Ticks,
  createId: () => string,
): Edit | undefined {
  const { startTicks } = section;
  const endTicks = sectionEndTicks(sectionsOf(song), section, songEndTicks(song, createTimeMap(song)));
  const length = endTicks - startTicks;
  const start = Math.round(toTicks);
  if (start === startTicks) return undefined;
  if (start < 0) throw new EditError('A section cannot begin before the song.');
  // Two neighbouring stretches change places: the section, and what it passes.
  const [low, middle, high] =
    start > startTicks ? [startTicks, endTicks, start + length] : [start, startTicks, endTicks];
  const moved = (ticks: Ticks): Ticks =>
    ticks < low || ticks >= high ? ticks : ticks < middle ? ticks + high - middle : ticks - (middle - low);

  const edits: SimpleEdit[] = [];
  let now = song;
  const add = (...more: SimpleEdit[]) => {
    for (const edit of more) {
      edits.push(edit);
      now = applyEdit(now, edit).song;
    }
  };
  const edges = [low, middle, high];
  for (const edge of edges) add(...cutsAcross(now, edge, createId));
  const time = createTimeMap(now);
  // Before the start of the song there is no room for what leads into it.
  for (const edge of edges) if (moved(edge) === 0) add(...cutPickups(now, edge, createId));
  for (const part of now.parts)
    for (const passage of part.passages as Passage[]) {
      // What leads into a stretch goes with it.
      const into = edges.find((edge) => isPickup(passage, edge, time)) ?? passage.startTicks;
      const to = passage.startTicks + moved(into) - into;
      if (to !== passage.startTicks)
        add({ type: 'passage.set', partId: part.id, passageId: passage.id, patch: { startTicks: to } });
    }
  const put = movedChords(chordEntriesOf(now), edges, moved, createId);
  if (put.length > 0) add({ type: 'changes.put', remove: [], put });
  for (const part of now.parts) {
    if (part.kind === 'drums' || !part.follows) continue;
    const over = part.follows.writtenOver;
    const changed = new Map(movedChords(over, edges, moved, createId).map((each) => [each.id, each]));
    const known = new Set(over.map(({ id }) => id));
    const writtenOver = [
      ...over.map((each) => changed.get(each.id) ?? each),
      ...[...changed.values()].filter(({ id }) => !known.has(id)),
    ].sort((a, b) => a.startTicks - b.startTicks);
    add({ type: 'part.follow', partId: part.id, follows: { ...part.follows, writtenOver } });
  }
  add({
    type: 'song.set',
    patch: {
      sections: movedSections(now, section, { startTicks: start, endTicks: start + length }, moved),
      metreMap: movedMetres(now.metreMap, edges, moved),
      ...movedKeys(now, edges, moved),
    },
  });
  return { type: 'batch', edits };
}

/** Chords that change their place; one that is held over an edge is begun anew there, and so is that there is none. */
function movedChords(
  chords: readonly ChordEntry[],
  edges: readonly Ticks[],
  moved: (ticks: Ticks) => Ticks,
  createId: () => string,
): ChordEntry[] {
  const [low, , high] = edges;
  if (!chords.some(({ startTicks }) => startTicks < high)) return [];
  const held = edges.flatMap((edge): ChordEntry[] => {
    const there = changeAt(chords, edge);
    if (there) return there.startTicks < edge ? [{ ...there, id: createId(), startTicks: edge }] : [];
    return moved(edge) > low ? [{ id: createId(), startTicks: edge, chord: null }] : [];
  });
  return [...chords.filter(({ startTicks }) => moved(startTicks) !== startTicks), ...held].map((each) => ({
    ...each,
    startTicks: moved(each.startTicks),
  }));
}

function movedSections(
  song: Song,
  section: Section,
  place: { startTicks: Ticks; endTicks: Ticks },
  moved: (ticks: Ticks) => Ticks,
): Section[] {
  const end = songEndTicks(song, createTimeMap(song));
  const sections = sectionsOf(song);
  return sections
    .map((each): Section => {
      if (each.id === section.id) return { ...each, ...place };
      const startTicks = moved(each.startTicks);
      if (startTicks === each.startTicks && each.endTicks === undefined) return each;
      const length = sectionEndTicks(sections, each, end) - each.startTicks;
      return { ...each, startTicks, endTicks: startTicks + length };
    })
    .sort((a, b) => a.startTicks - b.startTicks);
}

/** Entries that each hold until the next, with one more at every edge, each at its new place; what says nothing new is left out. */
function movedEntries<T extends { startTicks: Ticks }>(
  entries: readonly T[],
  edges: readonly Ticks[],
  moved: (ticks: Ticks) => Ticks,
  same: (a: T, b: T) => boolean,
): T[] {
  const known = new Set(entries.map(({ startTicks }) => startTicks));
  const more = edges.flatMap((edge) => {
    const held = entries.findLast(({ startTicks }) => startTicks <= edge);
    return held && !known.has(edge) ? [{ ...held, startTicks: edge }] : [];
  });
  const all = [...entries, ...more]
    .map((each) => ({ ...each, startTicks: moved(each.startTicks) }))
    .sort((a, b) => a.startTicks - b.startTicks);
  return all.filter((each, i) => i === 0 || !same(all[i - 1], each));
}

function movedMetres(
  map: readonly MetreEntry[],
  edges: readonly Ticks[],
  moved: (ticks: Ticks) => Ticks,
): MetreEntry[] {
  return movedEntries(map, edges, moved, (a, b) => a.beats === b.beats && a.unit === b.unit);
}

function movedKeys(
  song: Song,
  edges: readonly Ticks[],
  moved: (ticks: Ticks) => Ticks,
): Partial<Pick<Song, 'key' | 'keyChanges'>> {
  const changes = keyChangesOf(song);
  if (changes.length === 0) return {};
  type Entry = Omit<KeyChange, 'key'> & { key: Song['key'] };
  const all: Entry[] = [{ startTicks: 0, key: keyAt(song, 0) }, ...changes];
  const [first, ...rest] = movedEntries(all, edges, moved, (a, b) => sameKey(a.key, b.key));
  return {
    key: first.key,
    keyChanges: rest.flatMap(({ startTicks, key }) => (key ? [{ startTicks, key }] : [])),
  };
}
