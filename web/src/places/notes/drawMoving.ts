/** What moves over the picture: playhead, loop, selection box, a note being drawn. */
import { xOf, yOf } from '../../canvas/view.ts';
import { colours } from '../../theme/tokens.ts';
import type { Gesture } from './gesture.ts';
import { BANDS, noteBand, type LineScene } from './lineScene.ts';

export function drawMoving(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  scene: Pick<LineScene, 'view' | 'recordings'>,
  gesture: Gesture | null,
  positionSeconds: number,
  state: { loop: { startSeconds: number; endSeconds: number } | null; loopOn: boolean },
): void {
  const { view } = scene;
  context.save();
  context.beginPath();
  context.rect(BANDS.labels, 0, width - BANDS.labels, height);
  context.clip();
  const range =
    gesture?.kind === 'loop'
      ? {
          startSeconds: Math.min(gesture.fromSeconds, gesture.toSeconds),
          endSeconds: Math.max(gesture.fromSeconds, gesture.toSeconds),
        }
      : state.loop;
  if (range) {
    const x = xOf(view, range.startSeconds);
    context.fillStyle = state.loopOn || gesture?.kind === 'loop' ? '#6D2E5B55' : '#6D2E5B22';
    context.fillRect(x, 0, xOf(view, range.endSeconds) - x, 5);
    context.fillStyle = '#6D2E5B08';
    context.fillRect(x, 5, xOf(view, range.endSeconds) - x, height);
  }
  if (gesture?.kind === 'marquee') {
    context.strokeStyle = colours.plum;
    context.fillStyle = '#6D2E5B14';
    context.fillRect(gesture.x0, gesture.y0, gesture.x1 - gesture.x0, gesture.y1 - gesture.y0);
    context.strokeRect(gesture.x0 + 0.5, gesture.y0 + 0.5, gesture.x1 - gesture.x0, gesture.y1 - gesture.y0);
  }
  if (gesture?.kind === 'draw') {
    const { top } = noteBand(height, scene.recordings !== null);
    const x = xOf(view, gesture.startSeconds);
    context.fillStyle = '#6D2E5B88';
    context.fillRect(x, top + yOf(view, gesture.midi) - 4, Math.max(2, xOf(view, gesture.endSeconds) - x), 8);
  }
  const x = xOf(view, positionSeconds);
  context.strokeStyle = colours.plum;
  context.lineWidth = 1.5;
  context.beginPath();
  context.moveTo(x, 0);
  context.lineTo(x, height);
  context.stroke();
  context.fillStyle = colours.plum;
  context.beginPath();
  context.moveTo(x - 5, 0);
  context.lineTo(x + 5, 0);
  context.lineTo(x, 8);
  context.fill();
  context.restore();
}
