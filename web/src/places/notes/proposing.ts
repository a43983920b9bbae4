/** The automatic proposals that fit what was read. */
import {
  CHORDAL_PROPOSAL_KINDS,
  PROPOSAL_KINDS,
  propose,
  proposeChordal,
  proposeFaint,
  type ChordalProposalKind,
  type Contour,
  type Proposal,
  type ProposalKind,
} from '@plundra/core/reading';
import type { Line, LineNote } from '@plundra/core/song';

/** A proposal while it is open. */
export interface OpenProposal {
  kind: ProposalKind | ChordalProposalKind | 'faint';
  /** How much counts, 0–100. */
  amount: number;
}

const MELODY_KINDS = [...PROPOSAL_KINDS, 'faint'] as const;

/** The kinds that make sense for a line. */
export function proposalKindsOf(line: Line): readonly OpenProposal['kind'][] {
  if (line.reads === 'hits') return ['ghosts', 'duplicates'];
  return line.reads === 'notes' ? CHORDAL_PROPOSAL_KINDS : MELODY_KINDS;
}

/**
 * What it would do to a line; null while the line's contour is on the way.
 * @param faint what its reading heard less surely
 */
export function proposalFor(
  line: Line,
  contour: Contour | undefined,
  faint: readonly LineNote[],
  { kind, amount }: OpenProposal,
): Proposal | null {
  if (kind === 'faint') return proposeFaint(line.notes, faint, amount);
  if (line.reads === 'notes' || line.reads === 'hits')
    return kind === 'octave' ? null : proposeChordal(kind, line.notes, amount);
  return contour && kind !== 'doubles' ? propose(kind, line.notes, contour, amount) : null;
}
