/** One strummed chord and nothing else, as somebody tries out a shape: what root is read. */
import { computeActivations, readChords } from '@plundra/core/reading';
import { createRandom } from '@plundra/core/signal';
import { chordOn, pitchClassOf, voiceChord } from '@plundra/core/theory';
import { loadBank, renderPart } from '@plundra/demo';
import { addNoise, addReverb } from '../clips/room.ts';

export interface StrumScores {
  clips: number;
  /** Share of the clips whose longest chord has the right root, and of those the right triad. */
  root: number;
  triad: number;
}

const RATE_HZ = 22050;
const SEED = 820_000;
const GUITARS = [24, 25, 26, 27];
const SHAPES = [
  ['1', '3', '5'],
  ['1', 'b3', '5'],
  ['1', '3', '5', 'b7'],
  ['1', '3', '5', '7'],
  ['1', 'b3', '5', 'b7'],
];

/** Chords of each kind on roots by chance, of 2 to 4 s, played by TimGM6mb, which nothing was trained on. */
export async function measureStrums(count: number): Promise<StrumScores> {
  const bank = await loadBank('TimGM6mb');
  let [root, triad] = [0, 0];
  for (let i = 0; i < count; i++) {
    const random = createRandom(SEED + i);
    const chord = chordOn(Math.floor(random() * 12), SHAPES[i % SHAPES.length], null);
    const seconds = 2 + 2 * random();
    const notes = voiceChord(chord, { voicing: 'guitar' }, []).map((midi, string) => ({
      startSeconds: 0.1 + string * (0.01 + 0.02 * random()),
      endSeconds: seconds - 0.2 * random(),
      midi,
      velocity: Math.round(70 + 40 * random()),
    }));
    const program = GUITARS[Math.floor(random() * GUITARS.length)];
    const { left, right } = await renderPart(bank, { program, drums: false, notes }, seconds, RATE_HZ);
    const samples = left.map((value, n) => (value + right[n]) / 2);
    if (random() < 0.5) addReverb(samples, RATE_HZ, 0.05 + 0.1 * random(), 0.4 + random());
    addNoise(samples, 35 + 25 * random(), random);
    const { chords } = readChords(samples, computeActivations(samples, { coarse: true }));
    const longest = chords
      .filter((each) => each.chord)
      .sort((a, b) => b.endSeconds - b.startSeconds - (a.endSeconds - a.startSeconds))
      .at(0)?.chord;
    if (!longest || pitchClassOf(longest.root) !== pitchClassOf(chord.root)) continue;
    root++;
    if (longest.degrees.includes('b3') === chord.degrees.includes('b3')) triad++;
  }
  return { clips: count, root: root / count, triad: triad / count };
}
