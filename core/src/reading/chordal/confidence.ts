/** What the confidence of a note of a chordal recording means: the probability that it is right. */
import { probabilityOf } from '../smallNetwork.ts';
import weights from './confidenceWeights.json' with { type: 'json' };
import { contextOf, type FoundNote } from './noteContext.ts';

/** Confidence 0–1 of each note, judged with all notes around it. @param notes in order of their start */
export function noteConfidences(notes: readonly FoundNote[]): number[] {
  return contextOf(notes).map((inputs) => probabilityOf(inputs, weights));
}
