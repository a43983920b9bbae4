import { formatPosition } from '@plundra/core/song';
import { centsFromNearest, noteNameIn, percussionName } from '@plundra/core/theory';
import { keyIn } from '../../song/keySpans.ts';
import { midiOf, secondsOf, type View } from '../../canvas/view.ts';
import { keyOfRow } from './drumRows.ts';
import type { LineScene } from './lineScene.ts';

/** Where the pointer is: bar.beat.tick, seconds, note and cents. */
export function CursorLine({
  scene,
  view,
  pointer,
  bandTop,
  bandBottom,
}: {
  scene: Pick<LineScene, 'time' | 'keys' | 'drumRows'>;
  view: View;
  pointer: { x: number; y: number };
  bandTop: number;
  bandBottom: number;
}) {
  const seconds = Math.max(0, secondsOf(view, pointer.x));
  const midi = midiOf(view, pointer.y - bandTop);
  const inBand = pointer.y >= bandTop && pointer.y < bandBottom;
  const cents = Math.round(centsFromNearest(midi));
  return (
    <div className="cursor-line numbers" aria-hidden>
      {formatPosition(scene.time.barAt(scene.time.ticksAt(seconds)))} · {seconds.toFixed(2)} s
      {inBand && scene.drumRows && ` · ${percussionName(keyOfRow(scene.drumRows, midi))}`}
      {inBand &&
        !scene.drumRows &&
        ` · ${noteNameIn(midi, keyIn(scene.keys, seconds))} ${cents >= 0 ? '+' : '−'}${Math.abs(cents)} cents`}
    </div>
  );
}
