import { xOf, type TimeView } from '../../canvas/view.ts';
import { colours } from '../../theme/tokens.ts';
import type { PassageDragging } from './usePassageDrag.ts';

/** The rectangle that is drawn over empty space. */
export function Marquee({ view, marquee }: { view: TimeView; marquee: PassageDragging['marquee'] }) {
  if (!marquee) return null;
  const [from, to] = [xOf(view, marquee.fromSeconds), xOf(view, marquee.toSeconds)].sort((a, b) => a - b);
  return (
    <div
      aria-hidden
      style={{
        position: 'fixed',
        pointerEvents: 'none',
        left: marquee.leftX + from,
        width: to - from,
        top: marquee.fromY,
        height: marquee.toY - marquee.fromY,
        border: `1px solid ${colours.plum}`,
        background: '#6D2E5B14',
        zIndex: 3,
      }}
    />
  );
}
