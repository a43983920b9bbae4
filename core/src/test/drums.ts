/** Drums for tests of the readers. */
import { createRandom, gaussian } from '../signal/index.ts';

const READING_HZ = 22050;
/** Long enough to die away: a stroke that is cut off clicks, and the click is heard as another. */
const STROKE_SAMPLES = 12_000;

type Hit = 'kick' | 'snare' | 'hat';

/** Strokes of computed drums; a bar is written in steps, one line for each drum: "x" is a stroke. */
export function playDrums(
  lines: Partial<Record<Hit, string>>,
  { stepSeconds, bars, startSeconds = 0.4 }: { stepSeconds: number; bars: number; startSeconds?: number },
): Float32Array {
  const random = createRandom(5);
  const steps = Math.max(...Object.values(lines).map((line) => line.length));
  const out = new Float32Array(Math.round((startSeconds + bars * steps * stepSeconds + 0.5) * READING_HZ));
  for (let step = 0; step < bars * steps; step++)
    for (const [hit, line] of Object.entries(lines)) {
      if (line[step % steps] !== 'x') continue;
      const first = Math.round((startSeconds + step * stepSeconds) * READING_HZ);
      for (let n = 0, before = 0; n < STROKE_SAMPLES && first + n < out.length; n++) {
        const t = n / READING_HZ;
        const noise = gaussian(random);
        if (hit === 'kick') out[first + n] += 0.5 * Math.sin(2 * Math.PI * 60 * t) * Math.exp(-t / 0.08);
        if (hit === 'snare')
          out[first + n] += (0.2 * noise + 0.2 * Math.sin(2 * Math.PI * 190 * t)) * Math.exp(-t / 0.06);
        if (hit === 'hat') out[first + n] += 0.08 * (noise - 0.95 * before) * Math.exp(-t / 0.02);
        before = noise;
      }
    }
  return out;
}
