/**
 * Where notes of a chordal recording end. How clearly a key still sounds says little where it dies away, so a small network looks at what
 * comes before and after as well ({@link endChoices}). It says of each step whether the note still sounds; the end is where that fits best
 * (trained by training/train_note_ends.py).
 */
import { createDilatedLogits } from '../dilatedNetwork.ts';
import type { Activations } from './activations.ts';
import type { FoundNote } from './noteContext.ts';
import { END_STEP_FRAMES, endChoices, type EndChoice } from './noteEndInputs.ts';
import weights from './noteEndWeights.json' with { type: 'json' };

const network = createDilatedLogits(weights);

/** The frame behind the last of each note. @param notes in order of their start */
export function noteEnds(notes: readonly FoundNote[], activations: Activations): number[] {
  return endChoices(notes, activations).map(endOf);
}

function endOf({ firstFrame, fromFrame, toFrame, inputs }: EndChoice): number {
  const [sounds] = network(inputs);
  // Up to each frame the sum of what speaks for sounding in it.
  let [end, sum, most] = [fromFrame, 0, 0];
  const first = Math.ceil((fromFrame - firstFrame) / END_STEP_FRAMES);
  for (let step = first; step < sounds.length; step++) {
    const behind = firstFrame + (step + 1) * END_STEP_FRAMES;
    if (behind > toFrame + 1) break;
    sum += sounds[step];
    if (sum > most) [end, most] = [Math.min(toFrame, behind), sum];
  }
  return end;
}
