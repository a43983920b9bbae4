/** Sections of a song: verse, chorus. One lasts until its end, or until the next; copied it takes along what lies in it. */
import type { Ticks } from '../signal/index.ts';
import { findPassages, planSplit, withoutSpares, type Found, type PassagePlace } from './arrange.ts';
import { chordEntriesOf } from './changes.ts';
import { applyEdit } from './edit.ts';
import type { Edit, SimpleEdit } from './editSchema.ts';
import { keyAt, keyChangesOf } from './keys.ts';
import { passageEndTicks } from './placed.ts';
import {
  MAX_TICKS,
  TICKS_PER_QUARTER,
  type KeyChange,
  type Part,
  type Passage,
  type Section,
  type Song,
} from './schema.ts';
import { createTimeMap, type TimeMap } from './timeMap.ts';

export const sectionsOf = (song: Pick<Song, 'sections'>): readonly Section[] => song.sections ?? NONE;
const NONE: readonly Section[] = [];

/** The section that starts at a tick. */
export function sectionFrom(sections: readonly Section[], startTicks: number): Section | undefined {
  return sections.find((section) => section.startTicks === startTicks);
}

/** A section from `startTicks` on, one that has its name changed, or, with an empty name, one less. */
export function putSection(
  sections: readonly Section[],
  startTicks: number,
  name: string,
  createId: () => string,
): Section[] {
  const others = sections.filter((section) => section.startTicks !== startTicks);
  const trimmed = name.trim();
  if (trimmed === '') return others;
  const before = sectionFrom(sections, startTicks) ?? { id: createId(), startTicks };
  return inOrder([...others, { ...before, name: trimmed }]);
}

const inOrder = (sections: Section[]) => sections.sort((a, b) => a.startTicks - b.startTicks);

/** Where a section ends: where it says, but no later than the next begins; the last with the song. */
export function sectionEndTicks(
  sections: readonly Section[],
  { startTicks, endTicks }: Section,
  songEndTicks: Ticks,
): Ticks {
  const next = sections.find((each) => each.startTicks > startTicks)?.startTicks;
  return Math.max(startTicks + 1, Math.min(endTicks ?? next ?? songEndTicks, next ?? MAX_TICKS));
}

const SHORTEST_SECTION_TICKS = TICKS_PER_QUARTER;

/** Another start or end; neither goes over a neighbour. An end that meets the next section goes with it from then on. */
export function resizedSection(
  sections: readonly Section[],
  sectionId: string,
  edge: 'start' | 'end',
  toTicks: Ticks,
): Section[] {
  const index = sections.findIndex(({ id }) => id === sectionId);
  if (index < 0) return [...sections];
  const section = sections[index];
  const [before, next] = [sections[index - 1] as Section | undefined, sections.at(index + 1)];
  const at = Math.round(toTicks);
  if (edge === 'start') {
    const last = (section.endTicks ?? next?.startTicks ?? MAX_TICKS) - SHORTEST_SECTION_TICKS;
    const startTicks = Math.max(before ? before.startTicks + 1 : 0, Math.min(at, last));
    return sections.with(index, { ...section, startTicks });
  }
  const { endTicks: _, ...open } = section;
  const endTicks = Math.max(section.startTicks + SHORTEST_SECTION_TICKS, Math.min(at, MAX_TICKS));
  return sections.with(index, next && endTicks >= next.startTicks ? open : { ...open, endTicks });
}

/**
 * Whether a passage leads into a place with a pickup: it begins up to a beat before it, and more of it lies behind. Then it belongs
 * to what begins there: a voice breathes, and a phrase may begin before its bar.
 */
export function isPickup(passage: Passage, atTicks: Ticks, time: TimeMap): boolean {
  const before = atTicks - passage.startTicks;
  if (before <= 0 || before > time.beatTicksAt(Math.max(0, atTicks - 1))) return false;
  return passageEndTicks(passage, time) - atTicks > before;
}

/** The passages that begin within a stretch of the song, with those that lead into it. */
export function passagesWithinTicks(song: Song, fromTicks: Ticks, toTicks: Ticks): PassagePlace[] {
  const time = createTimeMap(song);
  const begins = (passage: Passage, atTicks: Ticks) =>
    passage.startTicks >= atTicks || isPickup(passage, atTicks, time);
  return song.parts.flatMap((part) =>
    (part.passages as Passage[])
      .filter((passage) => begins(passage, fromTicks) && !begins(passage, toTicks))
      .map(({ id }) => ({ partId: part.id, passageId: id })),
  );
}

/** Cuts everything that sounds across a place, but for what leads into it. */
export function cutsAcross(song: Song, atTicks: Ticks, createId: () => string): SimpleEdit[] {
  const time = createTimeMap(song);
  const across = song.parts.flatMap((part) =>
    (part.passages as Passage[])
      .filter(
        (each) =>
          each.startTicks < atTicks &&
          passageEndTicks(each, time) > atTicks &&
          !isPickup(each, atTicks, time),
      )
      .map(({ id }) => ({ partId: part.id, passageId: id })),
  );
  return cutsOf(findPassages(song, across), atTicks, time, createId);
}

/** Cuts what leads into a place there. */
export function cutPickups(song: Song, atTicks: Ticks, createId: () => string): SimpleEdit[] {
  return cutsOf(pickupsAt(song, atTicks), atTicks, createTimeMap(song), createId);
}

function cutsOf(
  found: readonly Found[],
  atTicks: Ticks,
  time: TimeMap,
  createId: () => string,
): SimpleEdit[] {
  const cuts = planSplit(found, atTicks, time, createId);
  return cuts ? (cuts.type === 'batch' ? cuts.edits : [cuts]) : [];
}

/**
 * A section once more, right behind itself, with everything in it: bars are put in, and passages, chords and its name copied
 * there. What sounds across its edges is cut there.
 */
export function planSectionCopy(song: Song, section: Section, endTicks: Ticks, createId: () => string): Edit {
  const { startTicks } = section;
  const lengthTicks = endTicks - startTicks;
  const edits: SimpleEdit[] = [];
  let now = song;
  const add = (...more: SimpleEdit[]) => {
    for (const edit of more) {
      edits.push(edit);
      now = applyEdit(now, edit).song;
    }
  };
  for (const atTicks of [startTicks, endTicks]) add(...cutsAcross(now, atTicks, createId));
  // What was not chosen in a take table is not copied: each piece would become a take of its own.
  const inside = withoutSpares(now, passagesWithinTicks(now, startTicks, endTicks));
  const chords = chordEntriesOf(now).filter(
    (each) => each.startTicks >= startTicks && each.startTicks < endTicks,
  );
  const keys = keysCopied(now, startTicks, endTicks);
  // What leads into the place behind goes there as a whole: put on the place it is not cut by what is put in.
  const leading = pickupsAt(now, endTicks);
  for (const { part, passage } of leading) add(startsAt(part, passage, endTicks));
  add({ type: 'time.insert', atTicks: endTicks, lengthTicks, cuts: true });
  for (const { part, passage } of leading) add(startsAt(part, passage, passage.startTicks + lengthTicks));
  if (keys) add({ type: 'song.set', patch: { keyChanges: keys } });
  for (const { part, passage } of findPassages(now, inside))
    add({
      type: 'passage.copy',
      partId: part.id,
      passageId: passage.id,
      toId: createId(),
      startTicks: passage.startTicks + lengthTicks,
    });
  const taken = new Set(chordEntriesOf(now).map((each) => each.startTicks));
  const put = chords
    .map((each) => ({ ...each, id: createId(), startTicks: each.startTicks + lengthTicks }))
    .filter((each) => !taken.has(each.startTicks));
  if (put.length > 0) add({ type: 'changes.put', remove: [], put });
  const copy: Section = {
    ...section,
    id: createId(),
    startTicks: endTicks,
    ...(section.endTicks !== undefined && { endTicks: endTicks + lengthTicks }),
  };
  add({ type: 'song.set', patch: { sections: inOrder([...sectionsOf(now), copy]) } });
  return { type: 'batch', edits };
}

function pickupsAt(song: Song, atTicks: Ticks): Found[] {
  const time = createTimeMap(song);
  return song.parts.flatMap((part) =>
    (part.passages as Passage[])
      .filter((passage) => isPickup(passage, atTicks, time))
      .map((passage) => ({ part, passage })),
  );
}

const startsAt = (part: Part, passage: Passage, startTicks: Ticks): SimpleEdit => ({
  type: 'passage.set',
  partId: part.id,
  passageId: passage.id,
  patch: { startTicks },
});

/** The changes of key with those of a section once more behind it; undefined where the key is the same all through it. */
function keysCopied(song: Song, startTicks: Ticks, endTicks: Ticks): KeyChange[] | undefined {
  const length = endTicks - startTicks;
  const changes = keyChangesOf(song);
  const inside = changes.filter((each) => each.startTicks > startTicks && each.startTicks < endTicks);
  const key = keyAt(song, startTicks);
  if (inside.length === 0 || !key) return undefined;
  // What was put in goes on in the key of the end; the copy begins in the one that the section begins in.
  const after = changes.filter((each) => each.startTicks > endTicks);
  const behind = keyAt(song, endTicks)!;
  return [
    ...changes.filter((each) => each.startTicks < endTicks),
    { startTicks: endTicks, key },
    ...inside.map((each) => ({ ...each, startTicks: each.startTicks + length })),
    ...(changes.some((each) => each.startTicks === endTicks)
      ? [{ startTicks: endTicks + length, key: behind }]
      : []),
    ...after.map((each) => ({ ...each, startTicks: each.startTicks + length })),
  ];
}
