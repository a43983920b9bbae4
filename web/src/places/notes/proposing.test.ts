import { describe, expect, it } from 'vitest';
import type { MelodyResult } from '@plundra/contract';
import { proposalFor, proposalKindsOf } from './proposing.ts';
import { faintNotesOf, lineOf } from '../../song/readingLines.ts';

const note = (startSeconds: number, midi: number, confidence: number) => ({
  startSeconds,
  endSeconds: startSeconds + 0.5,
  midi,
  velocity: 70.4,
  confidence,
});
const reading: MelodyResult = {
  kind: { kind: 'voice', reason: '' },
  tuningCents: 20,
  contour: { hopSeconds: 0.01, f0Hz: [], confidence: [] },
  notes: [note(1, 60.2, 0.9)],
  faintNotes: [note(3, 62.2, 0.2)],
};
const contour = { hopSeconds: 0.01, f0Hz: new Float32Array(0), confidence: new Float32Array(0) };

describe('fainter notes', () => {
  it('are offered for a melody, and come transposed where the recording is', () => {
    const line = lineOf('r', reading, 2);
    expect(proposalKindsOf(line)).toContain('faint');
    const faint = faintNotesOf(reading, 2, line.tuningCents);
    const proposal = proposalFor(line, contour, faint, { kind: 'faint', amount: 100 });
    expect(proposal?.put).toMatchObject([
      { id: 'faint-n1', midi: 62.2, velocity: 70, target: { midi: 64.2 } },
    ]);
    expect(line.notes).toMatchObject([{ id: 'n1', target: { midi: 62.2 } }]);
  });

  it('are not there for what is read as chords or drums', () => {
    for (const reads of ['notes', 'hits'] as const)
      expect(proposalKindsOf({ ...lineOf('r', reading), reads })).not.toContain('faint');
  });
});
