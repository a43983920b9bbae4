/** Editing the onsets of a recording that has no line, through the same tools as notes: each lasts to the next. */
import { riskyOnsets } from '@plundra/core/retune';
import {
  addOnset,
  createPassageTime,
  type PassageTime,
  heardAt,
  moveOnset,
  removeOnset,
  type PlacedRecording,
  type Stretch,
  type TimeMap,
  isInWindow,
} from '@plundra/core/song';
import type { CanvasNote } from './canvasNote.ts';
import type { LabelledEdit, NoteEditing } from './noteEditing.ts';

/** Onsets have no pitch; this one only says where the view lies. */
const MIDDLE_MIDI = 60;

export function createOnsetEditor(
  partId: string,
  passage: PlacedRecording,
  stretch: Stretch,
  time: TimeMap,
  createId: () => string,
): NoteEditing {
  const passageTime = createPassageTime(passage, time);
  const { toSong, toRecorded } = passageTime;
  const change = (label: string, next: Stretch, select?: string[]): LabelledEdit | undefined =>
    next === stretch ? undefined : { ...setStretch(partId, passage, label, next), ...(select && { select }) };
  const nothing = () => undefined;
  return {
    unpitched: true,
    snaps: false,
    notes: notesOfOnsets(passage, stretch, passageTime),
    move(ids, { seconds }) {
      if (seconds === 0) return undefined;
      // From the far side, so that onsets that move together do not stop each other.
      const chosen = stretch.onsets.filter((onset) => ids.has(onset.id));
      const ordered = seconds > 0 ? [...chosen].reverse() : chosen;
      const next = ordered.reduce(
        (made, onset) => moveOnset(made, onset.id, Math.max(0, toRecorded(toSong(heardAt(onset)) + seconds))),
        stretch,
      );
      return change(`Move ${countOnsets(chosen.length)}`, next);
    },
    draw(startSeconds) {
      const id = createId();
      return change('Add onset', addOnset(stretch, id, Math.max(0, toRecorded(startSeconds))), [id]);
    },
    drop(ids) {
      const next = [...ids].reduce(removeOnset, stretch);
      const gone = stretch.onsets.length - next.onsets.length;
      return gone > 0 ? change(`Remove ${countOnsets(gone)}`, next) : undefined;
    },
    trim: nothing,
    cut: nothing,
    join: nothing,
    octave: nothing,
    setVelocity: nothing,
    setPitch: nothing,
    mute: nothing,
    copy: nothing,
    paste: nothing,
  };
}

export function setStretch(
  partId: string,
  passage: PlacedRecording,
  label: string,
  stretch: Stretch | null,
): LabelledEdit {
  return { label, edit: { type: 'take.stretch', partId, takeId: passage.takeId, stretch } };
}

/** "3 onsets", "1 onset". */
export const countOnsets = (count: number) => `${count} ${count === 1 ? 'onset' : 'onsets'}`;

function notesOfOnsets(passage: PlacedRecording, stretch: Stretch, { toSong }: PassageTime): CanvasNote[] {
  const end = passage.offsetSeconds + passage.durationSeconds;
  const risky = riskyOnsets(stretch, passage.shownSeconds.to);
  const shown = stretch.onsets.filter(({ seconds }) => isInWindow(passage, seconds));
  return shown.map((onset, i) => {
    const next = shown.at(i + 1);
    return {
      id: onset.id,
      risks: risky.get(onset.id),
      startSeconds: toSong(heardAt(onset)),
      endSeconds: toSong(next ? heardAt(next) : end),
      midi: MIDDLE_MIDI,
      velocity: 80,
      doubtful: false,
      played: {
        startSeconds: toSong(onset.seconds),
        endSeconds: toSong(next ? next.seconds : end),
        midi: MIDDLE_MIDI,
        centsOff: 0,
      },
    };
  });
}

/**
 * Onsets as found at another sensitivity: those that are there already stay as they are, and so do those that were moved.
 */
export function withFound(
  stretch: Stretch,
  foundSeconds: readonly number[],
  createId: () => string,
): Stretch {
  const kept = stretch.onsets.filter(
    (onset) =>
      onset.targetSeconds !== undefined ||
      foundSeconds.some((seconds) => Math.abs(seconds - onset.seconds) < 1e-3),
  );
  return foundSeconds.reduce((made, seconds) => addOnset(made, createId(), seconds), {
    ...stretch,
    onsets: kept,
  });
}
