import { describe, expect, it } from 'vitest';
import { RHYTHM_HOP_SECONDS, type Pulse } from '../rhythm/index.ts';
import { beatCandidates, evidenceWith } from './beats.ts';
import { candidateInputs } from './beatChoice.ts';

const SECONDS = 12;
const FRAMES = Math.round(SECONDS / RHYTHM_HOP_SECONDS);
const none = () => new Float32Array(FRAMES);

/** A network that finds a beat every half second, and nothing else. */
const pulse: Pulse = {
  beats: Array.from({ length: 22 }, (_, i) => 0.5 + i / 2),
  likelihood: { beat: none(), downbeat: none(), compound: none(), tempi: [] },
  features: none(),
};
const evidence = evidenceWith([none(), none(), none(), none()], pulse);
/** Where the two inputs stand that say how far a way to beat time and the network's beats agree. */
const AGREEMENT = 5;

describe('what is known of a way to beat time', () => {
  it('is how many of its beats the network finds, and how many of the network’s it has', () => {
    const [own, later, , , twice] = candidateInputs(evidence, beatCandidates(evidence)).map((inputs) =>
      inputs.slice(AGREEMENT, AGREEMENT + 2),
    );
    expect(own).toEqual([1, 1]);
    // Half a beat later, none is where the network finds one.
    expect(later).toEqual([0, 0]);
    expect(twice[0]).toBeCloseTo(22 / 43, 5);
    expect(twice[1]).toBe(1);
  });

  it('lets every second beat agree with the network, but not the network with it', () => {
    const second = { bpm: 60, seconds: pulse.beats.filter((_, i) => i % 2 === 0) };
    const [inputs] = candidateInputs(evidence, [second]);
    expect(inputs.slice(AGREEMENT, AGREEMENT + 2)).toEqual([1, 0.5]);
    // As far off as a listener would still call the same beat, and further.
    const [near, far] = candidateInputs(evidence, [
      { bpm: 120, seconds: pulse.beats.map((each) => each + 0.06) },
      { bpm: 120, seconds: pulse.beats.map((each) => each + 0.09) },
    ]);
    expect(near[AGREEMENT]).toBe(1);
    expect(far[AGREEMENT]).toBe(0);
  });
});
