/** An item in small: its waveform, or its notes. */
import { memo } from 'react';
import type { ShelfSound } from '@plundra/core/shelf';

interface Props {
  sound: ShelfSound;
  colour: string;
}

const HEIGHT = 28;
const WIDTH = 192;

export const ItemPicture = memo(function ItemPicture({ sound, colour }: Props) {
  return (
    <svg
      className="item-picture"
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      preserveAspectRatio="none"
      width="100%"
      height={HEIGHT}
      aria-hidden
    >
      <path d={sound.type === 'recording' ? waveform(sound.picture) : notes(sound.picture)} fill={colour} />
    </svg>
  );
});

function waveform(heights: readonly number[]): string {
  const step = WIDTH / heights.length;
  return heights
    .map((height, i) => {
      const half = Math.max(0.5, (height / 255) * (HEIGHT / 2 - 1));
      return `M${(i * step).toFixed(2)} ${(HEIGHT / 2 - half).toFixed(2)}h${(step * 0.7).toFixed(2)}v${(2 * half).toFixed(2)}h-${(step * 0.7).toFixed(2)}z`;
    })
    .join('');
}

/** Fewer semitones than these do not fill the height: a held note is no wall. */
const LEAST_RANGE = 12;

function notes(all: Extract<ShelfSound, { type: 'notes' }>['picture']): string {
  const pitches = all.map(([, , midi]) => midi);
  const middle = (Math.min(...pitches) + Math.max(...pitches)) / 2;
  const range = Math.max(LEAST_RANGE, Math.max(...pitches) - Math.min(...pitches));
  return all
    .map(([start, end, midi]) => {
      const y = HEIGHT / 2 - ((midi - middle) / range) * (HEIGHT - 6) - 1.5;
      const width = Math.max(1.5, (end - start) * WIDTH - 1);
      return `M${(start * WIDTH).toFixed(2)} ${y.toFixed(2)}h${width.toFixed(2)}v3h-${width.toFixed(2)}z`;
    })
    .join('');
}
