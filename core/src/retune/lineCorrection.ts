/** What the corrections of a line change in the sound of its recording, how risky that is, and how far off it was. */
import { median, quantile, type Cents, type Seconds } from '../signal/index.ts';
import {
  playedCentsOff,
  soundingCentsOff,
  heardAt,
  soundingMidi,
  wantedSpan,
  type Line,
  type LineNote,
  type Onset,
  type Stretch,
} from '../song/index.ts';
import { isPitchChanged, isTimeChanged, MIN_STRETCH, MAX_STRETCH, type CorrectedNote } from './correction.ts';

/** Notes of a line in order of their start, with what they should sound like. */
export function correctedNotes(line: Pick<Line, 'notes' | 'tuningCents'>): CorrectedNote[] {
  return line.notes
    .map((note) => correctedNote(note, line.tuningCents))
    .sort((a, b) => a.startSeconds - b.startSeconds);
}

/** One note of a line with what it should sound like. */
export function correctedNote(note: LineNote, tuningCents: Cents): CorrectedNote {
  const span = wantedSpan(note);
  return {
    id: note.id,
    startSeconds: note.startSeconds,
    endSeconds: note.endSeconds,
    midi: note.midi,
    confidence: note.confidence,
    toMidi: soundingMidi(note, tuningCents),
    toStartSeconds: span.startSeconds,
    toEndSeconds: span.endSeconds,
    vibratoKept: note.target?.vibratoKept ?? 1,
    driftKept: note.target?.driftKept ?? 1,
  };
}

/** Whether any note of a line is corrected. */
export function isCorrected(line: Pick<Line, 'notes' | 'tuningCents' | 'formantSemitones'>): boolean {
  return (
    (line.formantSemitones ?? 0) !== 0 ||
    line.notes.some((note) => {
      if (!note.target) return false;
      const corrected = correctedNote(note, line.tuningCents);
      return isPitchChanged(corrected) || isTimeChanged(corrected);
    })
  );
}

/** Why a correction may be heard. */
export type Risk = 'large shift' | 'long stretch' | 'doubtful note' | 'limited';

/** A voice moved further than this sounds made (common practice: about a third). */
const LARGE_SHIFT_SEMITONES = 3;
/** Sustained sounds bear a quarter more or a fifth less without showing it (common practice). */
const LONG_STRETCH = 1.25;
const SHORT_STRETCH = 0.8;
const LOW_CONFIDENCE = 0.6;

export function risksOf(note: CorrectedNote): Risk[] {
  const risks: Risk[] = [];
  const pitch = isPitchChanged(note);
  const time = isTimeChanged(note);
  const stretch = (note.toEndSeconds - note.toStartSeconds) / (note.endSeconds - note.startSeconds);
  if (Math.abs(note.toMidi - note.midi) > LARGE_SHIFT_SEMITONES) risks.push('large shift');
  risks.push(...stretchRisks(stretch));
  if ((pitch || time) && note.confidence < LOW_CONFIDENCE) risks.push('doubtful note');
  return risks;
}

/** What may be heard of sound that is stretched to `ratio` times its length. */
function stretchRisks(ratio: number): Risk[] {
  const risks: Risk[] = [];
  if (ratio > LONG_STRETCH || ratio < SHORT_STRETCH) risks.push('long stretch');
  if (ratio > MAX_STRETCH || ratio < MIN_STRETCH) risks.push('limited');
  return risks;
}

/**
 * The onsets behind which a stretch may be heard, with the reasons, until the next onset; `endSeconds`: where the
 * passage ends in the recording. Cutting between onsets stretches nothing.
 */
export function riskyOnsets(stretch: Stretch, endSeconds: Seconds): Map<string, Risk[]> {
  const risky = new Map<string, Risk[]>();
  if (stretch.how === 'slice') return risky;
  const { onsets } = stretch;
  onsets.forEach((onset, i) => {
    const next = onsets[i + 1] as Onset | undefined;
    const played = (next?.seconds ?? endSeconds) - onset.seconds;
    const wanted = (next ? heardAt(next) : endSeconds) - heardAt(onset);
    const risks = played > 0 ? stretchRisks(wanted / played) : [];
    if (risks.length > 0) risky.set(onset.id, risks);
  });
  return risky;
}

/** Each reason with its count: "3 × long stretch, 1 × limited". */
export function riskText(risks: Iterable<readonly Risk[]>): string {
  const counts = new Map<Risk, number>();
  for (const each of risks) for (const risk of each) counts.set(risk, (counts.get(risk) ?? 0) + 1);
  return [...counts].map(([risk, count]) => `${count} × ${risk}`).join(', ');
}

export interface LineFigures {
  notes: number;
  /** Absolute distance of the notes from their rails. */
  medianCents: Cents;
  worstCents: Cents;
}

/** How far the notes are from their rails: as played, and as they will sound. */
/** Of several lines together. */
export function pitchFigures(
  lines: readonly Pick<Line, 'notes' | 'tuningCents'>[],
  which: 'played' | 'sounding',
): LineFigures {
  const off = which === 'played' ? playedCentsOff : soundingCentsOff;
  const cents = lines.flatMap(({ notes, tuningCents }) =>
    notes.map((note) => Math.abs(off(note, tuningCents))),
  );
  return {
    notes: cents.length,
    medianCents: cents.length > 0 ? median(cents) : 0,
    worstCents: cents.length > 0 ? quantile(cents, 1) : 0,
  };
}

/** A note further off than this, or later or earlier, wants work. */
const OFF_CENTS = 35;
const OFF_SECONDS = 0.06;
const MAX_SHARE = 0.5;
const FEWEST_NOTES = 8;

/** Whether so many notes want work that the take is better recorded again. */
export function wantsAnotherTake(
  line: Pick<Line, 'notes' | 'tuningCents'>,
  gridDistanceSeconds: readonly Seconds[] = [],
): boolean {
  if (line.notes.length < FEWEST_NOTES) return false;
  const off = line.notes.filter(
    (note, i) =>
      Math.abs(playedCentsOff(note, line.tuningCents)) > OFF_CENTS ||
      Math.abs(gridDistanceSeconds[i] ?? 0) > OFF_SECONDS,
  );
  return off.length / line.notes.length > MAX_SHARE;
}
