/** Sections of a song: verse, chorus. One lasts until the next. */
import type { Section, Song } from './schema.ts';

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
  const id = sectionFrom(sections, startTicks)?.id ?? createId();
  return [...others, { id, startTicks, name: trimmed }].sort((a, b) => a.startTicks - b.startTicks);
}
