/**
 * MusicXML (4.0 and before, partwise and timewise, plain and packed) as parts of a song: repeats are written out, ties are one
 * note, transposing instruments sound as they do, chord symbols become chords. What cannot be used is said in sentences.
 */
import { createMidiFitting, type MidiContents, type MidiRoom } from '../formats/index.ts';
import type { Ticks } from '../signal/index.ts';
import {
  LONGEST_LYRIC,
  markOf,
  LONGEST_NAME,
  LONGEST_TITLE,
  MAX_CHORDS,
  MAX_NOTES_IN_SONG,
  MAX_PARTS,
  MAX_TICKS,
  TICKS_PER_QUARTER,
  type ChordEntry,
  type MetreEntry,
  type Note,
  type NotePart,
  type Section,
  type TempoEntry,
} from '../song/index.ts';
import { sameSound, type Key } from '../theory/index.ts';
import { readBars, type ScoreBar, type ScoreNote } from './scoreBars.ts';
import {
  child,
  childrenOf,
  numberOf,
  parseScore,
  ScoreFormatError,
  textOf,
  type Element,
} from './scoreXml.ts';
import { playedOrder, type BarSigns } from './unfold.ts';

/** What a score gives a song. */
export interface ScoreContents extends MidiContents {
  chords: ChordEntry[];
  sections: Section[];
}

const USUAL_BPM = 120;
const USUAL_METRE = { beats: 4, unit: 4 };
/** Tied notes meet to within the rounding of their ticks. */
const MEETING_TICKS = 2;

/** Throws {@link ScoreFormatError}. `createId` names parts, passages, notes, chords and sections. */
export function readScore(
  bytes: Uint8Array,
  createId: () => string,
  room: MidiRoom = { parts: MAX_PARTS, notes: MAX_NOTES_IN_SONG },
): ScoreContents {
  const score = parseScore(bytes);
  const said = new Set<string>();
  const say = (sentence: string) => void said.add(sentence);
  const fitting = createMidiFitting();
  const scored = measuresByPart(score).map(({ id, measures }) => {
    const info = partInfo(score, id);
    return { info, bars: readBars(measures, info.drums, say) };
  });
  const time = barTimes(scored.map(({ bars }) => bars));
  if (time.cutOff) fitting.leaveOutLate();

  const parts: NotePart[] = [];
  for (const { info, bars } of scored) {
    const notes = placedNotes(bars, time.bars, createId);
    if (notes.length === 0) continue;
    const name = fitting.name(info.name ?? `Part ${parts.length + 1}`, LONGEST_NAME);
    parts.push({
      ...(info.isDrums ? { kind: 'drums' } : { kind: 'notes', program: info.program }),
      id: createId(),
      name,
      mark: markOf(name),
      colour: parts.length % 10,
      levelDb: 0,
      pan: info.pan,
      mute: false,
      solo: false,
      passages: fitting.passages(notes, [], createId),
    });
  }
  if (parts.length === 0)
    throw new ScoreFormatError('This score holds no notes, so there is nothing to import.');
  const title = textOf(child(score, 'work'), 'work-title') ?? textOf(score, 'movement-title');
  const [leading] = scored;
  const taken = fitting.parts(parts, room);
  return {
    title: title && fitting.name(title, LONGEST_TITLE),
    ...fitting.keys(keysOf(leading.bars, time.bars)),
    tempoMap: fitting.tempoMap(tempoMapOf(scored, time.bars, (bpm) => fitting.tempo(bpm))),
    metreMap: fitting.metreMap(metreMapOf(time.bars, (beats, unit) => fitting.metre(beats, unit))),
    parts: taken,
    chords: chordsOf(scored, time.bars, createId),
    sections: sectionsOf(leading.bars, time.bars, createId),
    changed: [...fitting.changed(), ...said],
  };
}

/** The bars of each part, whichever way the score is laid out. */
function measuresByPart(score: Element): { id: string; measures: Element[] }[] {
  if (score.name === 'score-partwise')
    return childrenOf(score, 'part').map((part) => ({
      id: part.attributes.id,
      measures: childrenOf(part, 'measure'),
    }));
  const parts = new Map<string, Element[]>();
  for (const measure of childrenOf(score, 'measure'))
    for (const { attributes, children } of childrenOf(measure, 'part')) {
      const measures = parts.get(attributes.id) ?? [];
      measures.push({ ...measure, children });
      parts.set(attributes.id, measures);
    }
  return [...parts].map(([id, measures]) => ({ id, measures }));
}

interface PartInfo {
  name: string | undefined;
  program: number;
  pan: number;
  isDrums: boolean;
  drums: Map<string, number>;
}

const DRUM_CHANNEL = 10;

function partInfo(score: Element, id: string): PartInfo {
  const listed = childrenOf(child(score, 'part-list'), 'score-part').find(
    (each) => each.attributes.id === id,
  );
  const instruments = childrenOf(listed, 'midi-instrument');
  const drums = new Map<string, number>();
  for (const instrument of instruments) {
    const key = numberOf(instrument, 'midi-unpitched');
    // MusicXML counts from 1.
    if (key !== undefined && key >= 1 && key <= 128) drums.set(instrument.attributes.id, key - 1);
  }
  const [first] = instruments as (Element | undefined)[];
  const program = (numberOf(first, 'midi-program') ?? 1) - 1;
  return {
    name: textOf(listed, 'part-name')?.replace(/\s+/g, ' '),
    program: program >= 0 && program <= 127 ? program : 0,
    pan: Math.max(-1, Math.min(1, (numberOf(first, 'pan') ?? 0) / 90)),
    isDrums: drums.size > 0 || numberOf(first, 'midi-channel') === DRUM_CHANNEL,
    drums,
  };
}

/** A bar as it is played: which one, where, and how long. */
interface PlayedBar {
  index: number;
  startTicks: Ticks;
  lengthTicks: Ticks;
  metre: { beats: number; unit: number };
}

/** Bars of all parts lie together: each is as long as its metre, or as what is written where it is meant to be shorter. */
function barTimes(parts: readonly (readonly ScoreBar[])[]): { bars: PlayedBar[]; cutOff: boolean } {
  const count = parts.reduce((most, bars) => Math.max(most, bars.length), 0);
  let metre = USUAL_METRE;
  const written = Array.from({ length: count }, (_, i) => {
    const bars = parts.flatMap((each) => each.at(i) ?? []);
    metre = bars.find((bar) => bar.metre)?.metre ?? metre;
    const full = (metre.beats * 4 * TICKS_PER_QUARTER) / metre.unit;
    const filled = Math.round(bars.reduce((most, bar) => Math.max(most, bar.writtenTicks), 0));
    const short = bars.some(({ irregular }) => irregular) && filled > 0;
    return { metre, lengthTicks: short ? filled : Math.max(full, filled) };
  });
  const signs: BarSigns[] = Array.from({ length: count }, (_, i) =>
    Object.assign({}, ...parts.map((bars) => bars.at(i)?.signs ?? {})),
  );
  const bars: PlayedBar[] = [];
  let startTicks = 0;
  for (const index of playedOrder(signs)) {
    if (startTicks + written[index].lengthTicks > MAX_TICKS) return { bars, cutOff: true };
    bars.push({ index, startTicks, ...written[index] });
    startTicks += written[index].lengthTicks;
  }
  return { bars, cutOff: false };
}

/** The notes of a part from the start of the song, with those that are tied as one. */
function placedNotes(
  bars: readonly ScoreBar[],
  played: readonly PlayedBar[],
  createId: () => string,
): Note[] {
  const notes: Note[] = [];
  /** Notes that go on, by pitch. */
  const open = new Map<number, Note>();
  /** How often each bar was played: a repeat sings the next verse. */
  const passes = new Map<number, number>();
  for (const { index, startTicks } of played) {
    const pass = (passes.get(index) ?? 0) + 1;
    passes.set(index, pass);
    const inOrder = [...(bars.at(index)?.notes ?? [])].sort((a, b) => a.startTicks - b.startTicks);
    for (const note of inOrder) {
      const from = Math.round(startTicks + note.startTicks);
      const to = Math.max(from + 1, Math.round(startTicks + note.startTicks + note.lengthTicks));
      const before = note.tiedFrom ? open.get(note.midi) : undefined;
      if (before && Math.abs(before.startTicks + before.lengthTicks - from) <= MEETING_TICKS) {
        before.lengthTicks = to - before.startTicks;
        if (!note.tiedTo) open.delete(note.midi);
        continue;
      }
      const made = madeNote(note, pass, from, to, createId);
      notes.push(made);
      if (note.tiedTo) open.set(note.midi, made);
    }
  }
  return notes;
}

function madeNote(
  { midi, velocity, words }: ScoreNote,
  pass: number,
  from: Ticks,
  to: Ticks,
  createId: () => string,
): Note {
  const lyric = (words.find(({ verse }) => verse === String(pass)) ?? words.at(0))?.text;
  return {
    id: createId(),
    startTicks: from,
    lengthTicks: to - from,
    midi,
    velocity,
    ...(lyric && { lyric: lyric.slice(0, LONGEST_LYRIC) }),
  };
}

type Scored = readonly { bars: readonly ScoreBar[] }[];

function tempoMapOf(
  scored: Scored,
  played: readonly PlayedBar[],
  held: (bpm: number) => number,
): TempoEntry[] {
  const tempi = new Map<Ticks, number>();
  for (const { index, startTicks } of played)
    for (const { bars } of scored)
      for (const tempo of bars.at(index)?.tempi ?? [])
        tempi.set(Math.round(startTicks + tempo.startTicks), held(tempo.bpm));
  if (!tempi.has(0)) tempi.set(0, USUAL_BPM);
  const inOrder = [...tempi].sort(([a], [b]) => a - b);
  return inOrder
    .filter(([, bpm], i) => i === 0 || bpm !== inOrder[i - 1][1])
    .map(([startTicks, bpm]) => ({ startTicks, bpm }));
}

/** The key of every bar as it is played: a repeat goes back to the one that is written there. */
function keysOf(
  written: readonly ScoreBar[],
  played: readonly PlayedBar[],
): { startTicks: Ticks; key: Key }[] {
  let last: Key | undefined;
  const inForce = written.map(({ key }) => (last = key ?? last));
  return played.flatMap(({ index, startTicks }) => {
    const key = inForce.at(index);
    return key ? [{ startTicks, key }] : [];
  });
}

/** A bar that is shorter or longer than its metre has one of its own: a pickup of a quarter is counted in 1/4. */
function metreMapOf(
  played: readonly PlayedBar[],
  fitted: (beats: number, unit: number) => Pick<MetreEntry, 'beats' | 'unit'> | undefined,
): MetreEntry[] {
  const entries: MetreEntry[] = [];
  for (const { startTicks, lengthTicks, metre } of played) {
    const full = (metre.beats * 4 * TICKS_PER_QUARTER) / metre.unit;
    const counted = lengthTicks === full ? metre : countedAs(lengthTicks, metre);
    const next = fitted(counted.beats, counted.unit);
    const last = entries.at(-1);
    if (next && (!last || last.beats !== next.beats || last.unit !== next.unit))
      entries.push({ startTicks, ...next });
  }
  if (entries.at(0)?.startTicks !== 0) entries.unshift({ startTicks: 0, beats: 4, unit: 4 });
  return entries;
}

function countedAs(
  lengthTicks: Ticks,
  metre: { beats: number; unit: number },
): { beats: number; unit: number } {
  for (const unit of [metre.unit, 4, 8, 16, 32]) {
    const beats = (lengthTicks * unit) / (4 * TICKS_PER_QUARTER);
    if (Number.isInteger(beats) && beats >= 1 && beats <= 32) return { beats, unit };
  }
  return metre;
}

/** Chord symbols of all parts together; of several at one place the first. Neighbours that are alike are one. */
function chordsOf(scored: Scored, played: readonly PlayedBar[], createId: () => string): ChordEntry[] {
  const chords = new Map<Ticks, ChordEntry['chord']>();
  for (const { index, startTicks, lengthTicks } of played)
    for (const { bars } of scored)
      for (const each of bars.at(index)?.chords ?? []) {
        const at = startTicks + Math.min(lengthTicks - 1, Math.round(each.startTicks));
        if (!chords.has(at)) chords.set(at, each.chord);
      }
  return [...chords]
    .sort(([a], [b]) => a - b)
    .filter(([, chord], i, all) => i === 0 || !sameSound(chord, all[i - 1][1]))
    .slice(0, MAX_CHORDS)
    .map(([startTicks, chord]) => ({ id: createId(), startTicks, chord }));
}

const MOST_SECTIONS = 500;
const LONGEST_SECTION_NAME = 60;

function sectionsOf(
  bars: readonly ScoreBar[],
  played: readonly PlayedBar[],
  createId: () => string,
): Section[] {
  return played
    .flatMap(({ index, startTicks }) => {
      const name = bars.at(index)?.rehearsal?.slice(0, LONGEST_SECTION_NAME);
      return name ? [{ id: createId(), startTicks, name }] : [];
    })
    .slice(0, MOST_SECTIONS);
}
