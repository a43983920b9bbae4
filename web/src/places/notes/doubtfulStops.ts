/** The walk through doubtful notes: what starts together is looked at together. */
import type { CanvasNote } from './canvasNote.ts';

/** Doubtful notes of one chord or strum are visited together when they start within this time. */
const TOGETHER_SECONDS = 0.06;

/** Ids of the doubtful notes, stop after stop. @param notes in order of their start */
export function doubtfulStops(
  notes: readonly Pick<CanvasNote, 'id' | 'startSeconds' | 'doubtful'>[],
): string[][] {
  const stops: string[][] = [];
  let from = -Infinity;
  for (const { id, startSeconds, doubtful } of notes) {
    if (!doubtful) continue;
    if (startSeconds - from <= TOGETHER_SECONDS) stops[stops.length - 1].push(id);
    else {
      stops.push([id]);
      from = startSeconds;
    }
  }
  return stops;
}

/** The stop after (before, with −1) what is selected, around the end of the line. */
export function nextStop(
  notes: readonly Pick<CanvasNote, 'id' | 'startSeconds' | 'doubtful'>[],
  selected: ReadonlySet<string>,
  direction: 1 | -1,
): string[] | undefined {
  const stops = doubtfulStops(notes);
  const place = new Map(notes.map(({ id }, i) => [id, i]));
  const chosen = notes.flatMap(({ id }, i) => (selected.has(id) ? [i] : []));
  if (chosen.length === 0) return direction === 1 ? stops[0] : stops.at(-1);
  const [first, last] = [chosen[0], chosen[chosen.length - 1]];
  const ahead = stops.filter((ids) =>
    direction === 1 ? ids.every((id) => place.get(id)! > last) : ids.every((id) => place.get(id)! < first),
  );
  return direction === 1 ? (ahead[0] ?? stops[0]) : (ahead.at(-1) ?? stops.at(-1));
}
