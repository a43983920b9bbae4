/** How the demo song is arranged: its recordings in passages, sections over them, a group, and a ritardando at the end. */
import {
  TICKS_PER_QUARTER,
  type NotePart,
  type NotePassage,
  type Part,
  type RecordingPart,
  type RecordingPassage,
  type Song,
} from '@plundra/core/song';
import { FERRY } from './score.ts';

/** From a beat to another, counted from 0; without an end it lasts as long as its recording. */
interface Piece {
  name: string;
  from: number;
  to?: number;
}

/** The last two bars slow down. */
const CODA_BEAT = 72;
const END_BEAT = 80;
const LAST_BPM = 66;
const INTRO: Piece = { name: 'Intro', from: 0, to: 16 };
const THROUGHOUT: Piece[] = [
  INTRO,
  { name: 'Verse', from: 16, to: 48 },
  { name: 'Chorus', from: 48, to: CODA_BEAT },
  { name: 'Coda', from: CODA_BEAT },
];
/** The lead sings its first consonant before the beat: its first passage begins a sixteenth early. */
const VOICE: Piece[] = [
  { name: 'Verse', from: 15.75, to: 32 },
  { name: 'Verse, second half', from: 32, to: 48 },
  { name: 'Chorus', from: 48, to: CODA_BEAT },
  { name: 'Last line', from: CODA_BEAT },
];
const BACKING: Piece[] = [
  { name: 'Answers', from: 33, to: 48 },
  { name: 'Chorus', from: 48, to: CODA_BEAT },
  { name: 'Last note', from: CODA_BEAT, to: 77 },
];
const LICKS: Piece[] = [
  { name: 'Intro lick', from: 0, to: 16 },
  { name: 'Fill', from: 33.5, to: 37 },
  { name: 'Lead-in', from: 41.5, to: 48 },
  { name: 'Coda lick', from: CODA_BEAT },
];
const PIECES: Record<string, Piece[]> = {
  'Lead voice': VOICE,
  'Backing voice': BACKING,
  'Lead guitar': LICKS,
  'Synth line': LICKS,
};
const GROUP = {
  id: 'demo-guitars',
  name: 'Lead line',
  colour: 2,
  levelDb: 0,
  mute: false,
  solo: false,
};
const GROUPED = new Set(['Lead guitar', 'Synth line']);

const ticksAt = (beat: number) => beat * TICKS_PER_QUARTER;
const secondsAt = (beat: number) => (beat * 60) / FERRY.bpm;

/** @param whole the song with each recording as one passage from its start */
export function arrangeFerry(whole: Song): Song {
  return {
    ...whole,
    tempoMap: [
      { startTicks: 0, bpm: FERRY.bpm },
      { startTicks: ticksAt(CODA_BEAT), bpm: FERRY.bpm, ramp: true },
      { startTicks: ticksAt(END_BEAT), bpm: LAST_BPM },
    ],
    sections: THROUGHOUT.map(({ name, from, to = END_BEAT }) => ({
      id: `demo-${name.toLowerCase()}`,
      name,
      startTicks: ticksAt(from),
      endTicks: ticksAt(to),
    })),
    groups: [GROUP],
    parts: whole.parts.map((part): Part => {
      const group = GROUPED.has(part.name) && { group: GROUP.id };
      return part.kind === 'recording'
        ? { ...part, ...group, passages: recorded(part) }
        : ({ ...part, ...group, passages: written(part) } as NotePart);
    }),
  };
}

function recorded(part: RecordingPart): RecordingPassage[] {
  const [all] = part.passages;
  return (PIECES[part.name] ?? THROUGHOUT).map(({ name, from, to }, i) => {
    const offsetSeconds = secondsAt(from);
    const end = to === undefined ? all.durationSeconds : Math.min(all.durationSeconds, secondsAt(to));
    return {
      ...all,
      id: i === 0 ? all.id : `${all.id}-${i + 1}`,
      name,
      startTicks: ticksAt(from),
      offsetSeconds,
      durationSeconds: end - offsetSeconds,
      // In the last two bars all of them slow down with the song.
      ...(from >= CODA_BEAT && { clock: { keeps: 'song' as const, bpm: FERRY.bpm } }),
    };
  });
}

function written(part: NotePart): NotePassage[] {
  const [all] = part.passages;
  return (PIECES[part.name] ?? THROUGHOUT).map(({ name, from, to = END_BEAT }, i) => {
    const [start, end] = [ticksAt(from), ticksAt(to)];
    const notes = all.notes
      .filter(({ startTicks }) => startTicks >= start && startTicks < end)
      .map((note) => ({ ...note, startTicks: note.startTicks - start }));
    return {
      ...all,
      id: i === 0 ? all.id : `${all.id}-${i + 1}`,
      name,
      startTicks: start,
      lengthTicks: end - start,
      notes,
    };
  });
}
