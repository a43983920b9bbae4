/** Draws over one take of a take table how far off each phrase is, and which were chosen. */
import type { Phrase, TableTake, TakeFigures, TimeMap } from '@plundra/core/song';
import type { Surface } from '../../../canvas/surface.ts';
import { xOf, type TimeView } from '../../../canvas/view.ts';
import { colours, fontFamily } from '../../../theme/tokens.ts';
import { figuresText } from './takeText.ts';

/** Within this it is in tune. */
const IN_TUNE_CENTS = 10;
const LEFT_PIXELS = 7;
const MIDDLE_PIXELS = 12;
const CHECK_PIXELS = 6;
/** Between the mark of a side and its figures. */
const MARK_PIXELS = 13;

interface Look {
  take: TableTake;
  phrases: readonly Phrase[];
  /** For each phrase; undefined where nothing is read. */
  figures: readonly (TakeFigures | undefined)[];
  view: TimeView;
  time: TimeMap;
}

export function drawTakeFigures(
  { context, width }: Surface,
  { take, phrases, figures, view, time }: Look,
): void {
  context.textBaseline = 'middle';
  for (const [i, phrase] of phrases.entries()) {
    if (!phrase.cells.has(take.id)) continue;
    const [left, right] = [phrase.startTicks, phrase.endTicks].map((ticks) =>
      xOf(view, time.secondsAt(ticks)),
    );
    if (right < 0 || left > width) continue;
    const chosen = phrase.chosenId === take.id;
    context.save();
    context.beginPath();
    context.rect(left, 0, right - left, 2 * MIDDLE_PIXELS);
    context.clip();
    if (chosen) drawCheck(context, right - LEFT_PIXELS - CHECK_PIXELS);
    const found = figures[i];
    if (found) {
      // A check that has little room covers the figures, not the other way round.
      const end = chosen ? right - LEFT_PIXELS - 2 * CHECK_PIXELS : right;
      context.font = `${chosen ? 600 : 400} 12px ${fontFamily}`;
      let x = left + LEFT_PIXELS;
      const side = sideOf(found);
      if (side) {
        context.fillStyle = side.colour;
        context.fillText(side.mark, x, MIDDLE_PIXELS);
        x += MARK_PIXELS;
      }
      context.fillStyle = chosen ? colours.ink : colours.quietInk;
      const text = figuresText(found, (each) => x + widthOf(context, each) <= end);
      context.fillText(text, x, MIDDLE_PIXELS);
    }
    context.restore();
  }
}

/** Figures are few, and measuring them takes as long as drawing them. */
const widths = new Map<string, number>();
const MOST_WIDTHS = 2000;

function widthOf(context: CanvasRenderingContext2D, text: string): number {
  const key = `${context.font} ${text}`;
  let width = widths.get(key);
  if (width === undefined) {
    width = context.measureText(text).width;
    if (widths.size >= MOST_WIDTHS) widths.clear();
    widths.set(key, width);
  }
  return width;
}

/** ▲ sharp, ▼ flat, ● in tune; notes that were played in have none. */
function sideOf({ cents, sideCents = 0 }: TakeFigures): { mark: string; colour: string } | undefined {
  if (cents === undefined) return undefined;
  if (cents <= IN_TUNE_CENTS) return { mark: '●', colour: colours.inTune };
  return sideCents > 0 ? { mark: '▲', colour: colours.sharp } : { mark: '▼', colour: colours.flat };
}

function drawCheck(context: CanvasRenderingContext2D, x: number): void {
  context.fillStyle = colours.ink;
  context.beginPath();
  context.arc(x, MIDDLE_PIXELS, CHECK_PIXELS, 0, 2 * Math.PI);
  context.fill();
  context.strokeStyle = colours.panel;
  context.lineWidth = 1.5;
  context.beginPath();
  context.moveTo(x - 2.5, MIDDLE_PIXELS);
  context.lineTo(x - 0.5, MIDDLE_PIXELS + 2);
  context.lineTo(x + 3, MIDDLE_PIXELS - 2.5);
  context.stroke();
  context.lineWidth = 1;
}
