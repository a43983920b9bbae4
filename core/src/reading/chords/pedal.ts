/**
 * Chords over a bass that stays: D A/D G/D D. Read with its bass, A over D is a Dmaj7 that lacks its third; read without, it is
 * what it is. So where a bass holds one note and whole triads sound above it that are not the chord of that note, the chords are
 * read from what lies above.
 */
import type { SpanChroma } from './chroma.ts';

/** Spans over one bass note, from the first to before the last. */
interface Pedal {
  from: number;
  to: number;
  /** Pitch class. */
  bass: number;
}

/** A bass is held when it is this sure. */
const MIN_BASS = 0.5;
/** An instrument or a hand of its own plays it when it lies apart for this share. */
const MIN_APART = 0.5;
/** A bass that stays shorter moves with the chords. */
const MIN_SPANS = 12;
/** A bass that leaves its note for so many spans comes back to it. */
const MAX_AWAY_SPANS = 1;
/** From here on a note sounds. */
const SOUNDS = 0.35;
/** By so much the weakest note of the chord above sounds more than that of the bass's own. */
const CLEARLY = 0.2;
/** The bass is heard an octave higher too: above it its note says this much less than others for a chord. */
const LESS_FROM_BASS = 0.3;
const MAJOR = 4;
const MINOR = 3;
const FIFTH = 7;

const TRIADS = Array.from({ length: 12 }, (_, root) => root).flatMap((root) =>
  [MAJOR, MINOR].map((third) => [root, (root + third) % 12, (root + FIFTH) % 12]),
);

/** For each span the bass that stays while its chord stands over it; undefined elsewhere. */
export function bassesThatStay(spans: readonly SpanChroma[]): (number | undefined)[] {
  const over = new Array<number | undefined>(spans.length).fill(undefined);
  for (const { from, to, bass } of pedalsOf(spans))
    for (let i = from; i < to; i++) if (standsOver(spans[i], bass)) over[i] = bass;
  return over;
}

/** The spans as they are read: without their bass where that stays under other chords. */
export function withoutPedals(
  spans: readonly SpanChroma[],
  over: readonly (number | undefined)[],
): SpanChroma[] {
  return spans.map((span, i) =>
    over[i] === undefined
      ? span
      : { ...span, sounding: aboveBass(span.upper, over[i]), bass: span.upperBass },
  );
}

/** What sounds over a bass that stays, without its octaves where the chord above does not need them. */
function aboveBass(upper: Float32Array, bass: number): Float32Array {
  const triad = triadOver(upper, bass);
  return !triad || triad.includes(bass) ? upper : upper.map((value, i) => (i === bass ? 0 : value));
}

/**
 * Whether it is another chord than that of the bass, whose third and fifth sound less. Where the lowest note is one of a strum or of
 * a close chord it may be there by chance; then it must be none of the chord's.
 */
function standsOver({ upper, bassApart }: SpanChroma, bass: number): boolean {
  const triad = triadOver(upper, bass);
  if (!triad) return false;
  if (bassApart < MIN_APART && triad.includes(bass)) return false;
  const tone = (step: number) => upper[(bass + step) % 12];
  const own = Math.min(tone(FIFTH), Math.max(tone(MAJOR), tone(MINOR)));
  return Math.min(...triad.map((each) => upper[each])) > own + CLEARLY;
}

/** Where a bass stays. */
function pedalsOf(spans: readonly SpanChroma[]): Pedal[] {
  const held = spans.map(heldBass);
  const pedals: Pedal[] = [];
  for (let from = 0; from < spans.length;) {
    const bass = held[from];
    let to = from + 1;
    for (let i = to; bass !== undefined && i <= to + MAX_AWAY_SPANS && i < spans.length; i++)
      if (held[i] === bass) to = i + 1;
    if (bass !== undefined && to - from >= MIN_SPANS) pedals.push({ from, to, bass });
    from = to;
  }
  return pedals;
}

function heldBass({ bass }: SpanChroma): number | undefined {
  const most = bass.indexOf(Math.max(...bass));
  return bass[most] >= MIN_BASS ? most : undefined;
}

/** Of {@link TRIADS} the one that sounds most over a bass; undefined where none is whole. */
function triadOver(upper: Float32Array, bass: number): readonly number[] | undefined {
  let best: readonly number[] | undefined;
  let most = 0;
  for (const tones of TRIADS) {
    const [root, third, fifth] = tones.map((tone) => upper[tone]);
    if (Math.min(root, third, fifth) <= SOUNDS) continue;
    const sum = root + third + fifth - (tones.includes(bass) ? LESS_FROM_BASS * upper[bass] : 0);
    if (sum <= most) continue;
    most = sum;
    best = tones;
  }
  return best;
}
