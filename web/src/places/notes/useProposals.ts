/** The automatic proposals: which one is open, what it would do, and taking it. */
import { useMemo, useState } from 'react';
import type { MelodyResult } from '@plundra/contract';
import type { Contour, Proposal } from '@plundra/core/reading';
import type { LineNote, PlacedRecording } from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';
import { notesBesideLine, type CanvasNote } from './canvasNote.ts';
import type { LineScene } from './lineScene.ts';
import { proposalFor, type OpenProposal } from './proposing.ts';
import { faintNotesOf } from '../../song/readingLines.ts';

export interface Proposals {
  open: OpenProposal | null;
  /** What the open one would do. */
  preview: Proposal | null;
  /** What the reading heard less surely. */
  faint: readonly LineNote[];
  /** How the canvas shows it. */
  shown: Pick<LineScene, 'previewed' | 'previewRemoved' | 'previewAdded'>;
  /** Opens another, or the same with another amount; null closes it. */
  show(next: OpenProposal | null): void;
  /** Takes the open one in one step. */
  take(): void;
}

const LABELS: Record<OpenProposal['kind'], string> = {
  join: 'Join broken notes',
  ghosts: 'Drop notes nobody played',
  octave: 'Fix octaves',
  doubles: 'Drop octave doubles',
  duplicates: 'Drop duplicates',
  faint: 'Add fainter notes',
};

/**
 * @param notes as the canvas shows them
 * @param reveal scrolls to a note that may lie out of sight
 */
export function useProposals(
  partId: string,
  recorded: PlacedRecording | null,
  contour: Contour | undefined,
  result: MelodyResult | undefined,
  notes: readonly CanvasNote[],
  reveal: (note: CanvasNote) => void,
): Proposals {
  const { time, apply } = useSong();
  const [open, setOpen] = useState<OpenProposal | null>(null);
  const semitones = recorded?.stretch?.semitones ?? 0;
  const tuningCents = recorded?.line?.tuningCents ?? 0;
  const faint = useMemo(
    () => (result ? faintNotesOf(result, semitones, tuningCents) : []),
    [result, semitones, tuningCents],
  );
  const preview = useMemo(
    () => (open && recorded?.line ? proposalFor(recorded.line, contour, faint, open) : null),
    [open, recorded, contour, faint],
  );
  const shown = useMemo(
    () => ({
      previewed: new Set(preview?.touched),
      previewRemoved: new Set(preview && preview.kind !== 'join' ? preview.remove : []),
      previewAdded: preview?.kind === 'faint' && recorded ? notesBesideLine(recorded, preview.put, time) : [],
    }),
    [preview, recorded, time],
  );
  return {
    open,
    preview,
    faint,
    shown,
    show(next) {
      setOpen(next);
      if (!next || next.kind === open?.kind || !recorded?.line) return;
      const proposed = proposalFor(recorded.line, contour, faint, next);
      const touched = new Set(proposed?.touched);
      const first =
        next.kind === 'faint'
          ? notesBesideLine(recorded, proposed?.put.slice(0, 1) ?? [], time).at(0)
          : notes.find(({ id }) => touched.has(id));
      if (first) reveal(first);
    },
    take() {
      if (!preview || !recorded || preview.count === 0) return;
      const { remove, put } = preview;
      apply(`${LABELS[preview.kind]} (${preview.count})`, {
        type: 'line.notes',
        partId,
        takeId: recorded.takeId,
        remove,
        put,
      });
      setOpen(null);
    },
  };
}
