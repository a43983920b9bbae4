/** By how much each pitch mark is moved in pitch. */
import { hzToMidi } from '../theory/index.ts';
import { isPitchChanged, type CorrectedNote } from './correction.ts';
import type { PitchMarks } from './pitchMarks.ts';
import { splitPitch } from './pitchShape.ts';

/** A change of pitch from one note to the next takes this long, so that a glide stays a glide. */
const BLEND_SECONDS = 0.05;
/** What is voiced this long before or after a note belongs to it. */
const REACH_SECONDS = 0.06;

/** Semitones for each mark; 0 where nothing changes. Notes in order of their start. */
export function planPitch(
  notes: readonly CorrectedNote[],
  marks: PitchMarks,
  sampleRateHz: number,
): Float64Array {
  const { positions, voiced, periods } = marks;
  const shift = new Float64Array(positions.length);
  if (!notes.some(isPitchChanged)) return shift;
  const steps = stepsOf(notes);
  let mark = 0;
  for (const step of steps) {
    if (step.next - step.previous <= 0) continue;
    while (mark < positions.length && positions[mark] / sampleRateHz < step.previous) mark++;
    const { note } = step;
    const inside: number[] = [];
    for (let k = mark; k < positions.length && positions[k] / sampleRateHz <= step.next; k++) {
      if (!voiced[k]) continue;
      const seconds = positions[k] / sampleRateHz;
      shift[k] = blended(steps, seconds);
      if (seconds >= note.startSeconds && seconds <= note.endSeconds) inside.push(k);
    }
    if (!isPitchChanged(note) || (note.vibratoKept === 1 && note.driftKept === 1) || inside.length < 3)
      continue;
    const points = inside.map((k) => ({
      seconds: positions[k] / sampleRateHz,
      midi: hzToMidi(sampleRateHz / periods[k]),
    }));
    const shape = splitPitch(points, note.midi);
    inside.forEach((k, i) => {
      shift[k] +=
        shape.weight[i] * ((note.driftKept - 1) * shape.drift[i] + (note.vibratoKept - 1) * shape.vibrato[i]);
    });
  }
  return shift;
}

/** The stretch that takes the constant shift of a note: to the middle of a short gap, a little into a long one. */
interface Step {
  note: CorrectedNote;
  previous: number;
  next: number;
  semitones: number;
}

function stepsOf(notes: readonly CorrectedNote[]): Step[] {
  return notes.map((note, i) => {
    const before = notes[i - 1]?.endSeconds ?? -Infinity;
    const after = notes[i + 1]?.startSeconds ?? Infinity;
    return {
      note,
      previous: Math.max(note.startSeconds - REACH_SECONDS, (before + note.startSeconds) / 2),
      next: Math.min(note.endSeconds + REACH_SECONDS, (after + note.endSeconds) / 2),
      semitones: note.toMidi - note.midi,
    };
  });
}

/** Mean of the steps over the time of a blend. */
function blended(steps: readonly Step[], seconds: number): number {
  const from = seconds - BLEND_SECONDS / 2;
  const to = seconds + BLEND_SECONDS / 2;
  let low = 0;
  let high = steps.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (steps[middle].next < from) low = middle + 1;
    else high = middle;
  }
  let sum = 0;
  let covered = 0;
  for (let i = low; i < steps.length && steps[i].previous < to; i++) {
    const overlap = Math.min(to, steps[i].next) - Math.max(from, steps[i].previous);
    if (overlap <= 0) continue;
    sum += overlap * steps[i].semitones;
    covered += overlap;
  }
  return covered > 0 ? sum / covered : 0;
}
