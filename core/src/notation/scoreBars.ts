/** One part of a score, bar by bar, in ticks from the start of each bar. */
import type { Ticks } from '../signal/index.ts';
import { TICKS_PER_QUARTER } from '../song/index.ts';
import type { ChordOrNone, Key } from '../theory/index.ts';
import { chordOf } from './scoreChords.ts';
import { child, childrenOf, numberOf, textOf, type Element } from './scoreXml.ts';
import type { BarSigns } from './unfold.ts';

export interface ScoreNote {
  /** May be fractions of ticks: a bar's notes are rounded where they come to lie. */
  startTicks: Ticks;
  lengthTicks: Ticks;
  midi: number;
  velocity: number;
  /** It goes on from the note before it, or into the next. */
  tiedFrom: boolean;
  tiedTo: boolean;
  /** The syllables of its verses. */
  words: readonly { verse: string; text: string }[];
}

export interface ScoreBar {
  notes: ScoreNote[];
  /** As far as anything is written in it. */
  writtenTicks: Ticks;
  /** Shorter than its metre on purpose, such as a pickup. */
  irregular: boolean;
  metre: { beats: number; unit: number } | undefined;
  key: Key | undefined;
  tempi: { startTicks: Ticks; bpm: number }[];
  chords: { startTicks: Ticks; chord: ChordOrNone }[];
  /** A name over its start: verse, A. */
  rehearsal: string | undefined;
  signs: BarSigns;
}

/** What could not be used, said once each. */
export type Say = (sentence: string) => void;

/** Loudness marks as velocities: common practice of score players, from memory. */
const VELOCITIES: Record<string, number> = {
  pppp: 16,
  ppp: 24,
  pp: 36,
  p: 50,
  mp: 64,
  mf: 78,
  f: 92,
  ff: 106,
  fff: 118,
  ffff: 126,
};
const USUAL_VELOCITY = 80;
/** MusicXML counts loudness in hundredths of this velocity. */
const FORTE_VELOCITY = 90;
/** A grace note sounds this long, just before the beat of the note it leads to. */
const GRACE_TICKS = TICKS_PER_QUARTER / 8;

const STEPS: Record<string, number> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };
const BEAT_QUARTERS: Record<string, number> = {
  whole: 4,
  half: 2,
  quarter: 1,
  eighth: 0.5,
  '16th': 0.25,
  '32nd': 0.125,
};
const SNARE = 38;

/** @param drums General MIDI keys by the id of an instrument of the part */
export function readBars(
  measures: readonly Element[],
  drums: ReadonlyMap<string, number>,
  say: Say,
): ScoreBar[] {
  const state = {
    divisions: 1,
    transpose: 0,
    velocity: USUAL_VELOCITY,
    /** Endings that have begun and not stopped. */
    endings: undefined as number[] | undefined,
  };
  return measures.map((measure, index) => {
    const bar = emptyBar(measure, index);
    if (state.endings && state.endings.length > 0) bar.signs.endings = state.endings;
    const ticksOf = (divisions: number) => (divisions * TICKS_PER_QUARTER) / state.divisions;
    let at = 0;
    let last = 0;
    let graces: ScoreNote[] = [];
    const placeGraces = () => {
      graces.forEach((grace, k) => {
        grace.startTicks = Math.max(0, at - (graces.length - k) * GRACE_TICKS);
        bar.notes.push(grace);
      });
      graces = [];
    };
    for (const element of measure.children) {
      switch (element.name) {
        case 'attributes':
          readAttributes(element, bar, state, say);
          break;
        case 'backup':
          at = Math.max(0, at - ticksOf(numberOf(element, 'duration') ?? 0));
          break;
        case 'forward':
          at += ticksOf(numberOf(element, 'duration') ?? 0);
          break;
        case 'direction':
          readDirection(element, bar, at + ticksOf(numberOf(element, 'offset') ?? 0), state);
          break;
        case 'sound':
          readSound(element, bar, at);
          break;
        case 'harmony': {
          const chord = chordOf(element);
          const startTicks = Math.max(0, at + ticksOf(numberOf(element, 'offset') ?? 0));
          if (chord === undefined) say('Some chord symbols were not understood and left out.');
          else bar.chords.push({ startTicks, chord });
          break;
        }
        case 'barline': {
          const before = state.endings;
          state.endings = readBarline(element, bar, before);
          const inside = state.endings ?? before;
          if (inside && inside.length > 0) bar.signs.endings = inside;
          break;
        }
        case 'note': {
          const isGrace = child(element, 'grace') !== undefined;
          const isChord = child(element, 'chord') !== undefined;
          const length = isGrace ? GRACE_TICKS : ticksOf(numberOf(element, 'duration') ?? 0);
          if (!isChord && !isGrace) placeGraces();
          const startTicks = isChord ? last : at;
          if (!isGrace && !isChord) {
            last = at;
            at += length;
          }
          const midi =
            child(element, 'rest') || child(element, 'cue') ? undefined : pitchOf(element, drums, state, say);
          if (midi === undefined || length <= 0) break;
          const tie = (type: string) =>
            childrenOf(element, 'tie').some((each) => each.attributes.type === type);
          const loud = Number(element.attributes.dynamics);
          const note: ScoreNote = {
            startTicks,
            lengthTicks: length,
            midi,
            velocity: loud > 0 ? clampVelocity((loud / 100) * FORTE_VELOCITY) : state.velocity,
            tiedFrom: tie('stop'),
            tiedTo: tie('start'),
            words: wordsOf(element),
          };
          if (isGrace) graces.push(note);
          else bar.notes.push(note);
          break;
        }
      }
      bar.writtenTicks = Math.max(bar.writtenTicks, at);
    }
    placeGraces();
    return bar;
  });
}

/** Syllables as they are sung, a hyphen where the word goes on. */
function wordsOf(note: Element): ScoreNote['words'] {
  return childrenOf(note, 'lyric').flatMap((lyric, i) => {
    const text = childrenOf(lyric, 'text')
      .map((each) => each.text)
      .join(' ')
      .trim();
    if (text === '') return [];
    const syllabic = childrenOf(lyric, 'syllabic').at(-1)?.text;
    const goesOn = syllabic === 'begin' || syllabic === 'middle';
    return [{ verse: lyric.attributes.number ?? String(i + 1), text: goesOn ? `${text}-` : text }];
  });
}

type State = { divisions: number; transpose: number; velocity: number };

const clampVelocity = (velocity: number) => Math.max(1, Math.min(127, Math.round(velocity)));

function emptyBar({ attributes }: Element, index: number): ScoreBar {
  return {
    notes: [],
    writtenTicks: 0,
    irregular: attributes.implicit === 'yes' || (index === 0 && attributes.number === '0'),
    metre: undefined,
    key: undefined,
    tempi: [],
    chords: [],
    rehearsal: undefined,
    signs: {},
  };
}

function readAttributes(element: Element, bar: ScoreBar, state: State, say: Say): void {
  state.divisions = numberOf(element, 'divisions') ?? state.divisions;
  const transpose = child(element, 'transpose');
  if (transpose)
    state.transpose =
      (numberOf(transpose, 'chromatic') ?? 0) + 12 * (numberOf(transpose, 'octave-change') ?? 0);
  const key = child(element, 'key');
  const fifths = numberOf(key, 'fifths');
  if (fifths !== undefined)
    bar.key = {
      fifths: concertFifths(fifths, state.transpose),
      mode: textOf(key, 'mode') === 'minor' ? 'minor' : 'major',
    };
  const time = child(element, 'time');
  if (!time) return;
  const beats = textOf(time, 'beats')
    ?.split('+')
    .reduce((sum, each) => sum + Number(each), 0);
  const unit = numberOf(time, 'beat-type');
  if (beats !== undefined && beats > 0 && unit !== undefined) bar.metre = { beats, unit };
  else say('Bars without a metre were counted in the one before them.');
}

/** The signature as it sounds: a written C of a clarinet in B flat is two flats. */
function concertFifths(fifths: number, transpose: number): number {
  let sounding = fifths + 7 * transpose;
  while (sounding > 6) sounding -= 12;
  while (sounding < -6) sounding += 12;
  return transpose % 12 === 0 ? Math.max(-7, Math.min(7, fifths)) : sounding;
}

function readDirection(element: Element, bar: ScoreBar, startTicks: Ticks, state: State): void {
  for (const { children } of childrenOf(element, 'direction-type')) {
    for (const each of children) {
      if (each.name === 'rehearsal') bar.rehearsal ??= each.text || undefined;
      else if (each.name === 'segno') bar.signs.segno = true;
      else if (each.name === 'coda') bar.signs.coda ??= true;
      else if (each.name === 'dynamics')
        state.velocity = VELOCITIES[each.children.at(0)?.name ?? ''] ?? state.velocity;
      else if (each.name === 'metronome' && child(element, 'sound')?.attributes.tempo === undefined) {
        const quarters = BEAT_QUARTERS[textOf(each, 'beat-unit') ?? ''] as number | undefined;
        const perMinute = numberOf(each, 'per-minute');
        const dotted = child(each, 'beat-unit-dot') ? 1.5 : 1;
        if (quarters && perMinute) bar.tempi.push({ startTicks, bpm: perMinute * quarters * dotted });
      }
    }
  }
  const sound = child(element, 'sound');
  if (sound) readSound(sound, bar, startTicks);
}

function readSound({ attributes }: Element, bar: ScoreBar, startTicks: Ticks): void {
  const tempo = Number(attributes.tempo);
  if (tempo > 0) bar.tempi.push({ startTicks: Math.max(0, startTicks), bpm: tempo });
  const { signs } = bar;
  if (attributes.segno !== undefined) signs.segno = true;
  if (attributes.coda !== undefined) signs.coda = true;
  if (attributes.tocoda !== undefined) {
    signs.toCoda = true;
    // The sign over the place one leaves from is not the coda itself.
    signs.coda = false;
  }
  if (attributes.fine !== undefined) signs.fine = true;
  if (attributes.dacapo !== undefined) signs.jump = 'start';
  if (attributes.dalsegno !== undefined) signs.jump = 'segno';
}

/** Endings that go on after it. */
function readBarline(element: Element, bar: ScoreBar, open: number[] | undefined): number[] | undefined {
  const repeat = child(element, 'repeat')?.attributes;
  if (repeat?.direction === 'forward') bar.signs.repeatStart = true;
  if (repeat?.direction === 'backward') bar.signs.repeatEnd = Math.max(2, Number(repeat.times) || 2);
  const ending = child(element, 'ending')?.attributes;
  if (!ending) return open;
  const numbers = (ending.number ?? '')
    .split(/[\s,]+/)
    .map(Number)
    .filter((number) => number > 0);
  return ending.type === 'start' ? numbers : undefined;
}

function pitchOf(
  note: Element,
  drums: ReadonlyMap<string, number>,
  { transpose }: State,
  say: Say,
): number | undefined {
  const pitch = child(note, 'pitch');
  if (pitch) {
    const alter = numberOf(pitch, 'alter') ?? 0;
    if (!Number.isInteger(alter)) say('Quarter tones were set to the nearest semitone.');
    const step = STEPS[textOf(pitch, 'step') ?? ''] as number | undefined;
    const octave = numberOf(pitch, 'octave');
    if (step === undefined || octave === undefined) return undefined;
    const midi = 12 * (octave + 1) + step + Math.round(alter) + transpose;
    if (midi < 0 || midi > 127) say('Notes beyond the range of MIDI were left out.');
    return midi >= 0 && midi <= 127 ? midi : undefined;
  }
  if (!child(note, 'unpitched')) return undefined;
  const drum = drums.get(child(note, 'instrument')?.attributes.id ?? '');
  if (drum === undefined && drums.size !== 1) say('Drums that the score does not name were read as a snare.');
  return drum ?? (drums.size === 1 ? [...drums.values()][0] : SNARE);
}
