/** Chord names above a time canvas. */
import { useMemo } from 'react';
import {
  chordSpans,
  songEndTicks,
  type ChordEntry,
  type PlacedRecording,
  type Song,
  type TimeMap,
} from '@plundra/core/song';
import { bassOf, pitchClassesOf, prettyName, suffixOf, type Chord } from '@plundra/core/theory';
import { colours, fontFamily } from '../theme/tokens.ts';
import { xOf, type TimeView } from './view.ts';

export interface PlacedChord {
  fromSeconds: number;
  toSeconds: number;
  chord: Chord | null;
  /** Pitch classes of the chord and of its bass. */
  classes: ReadonlySet<number>;
}

const NO_CHANGES: readonly ChordEntry[] = [];

/** The chords of a song on the time axis; the same array while neither they nor the end of the song change. */
export function usePlacedChords(song: Song, time: TimeMap): readonly PlacedChord[] {
  const changes = song.changes ?? NO_CHANGES;
  const endTicks = useMemo(() => songEndTicks(song, time), [song, time]);
  return useMemo(() => placedChords(changes, endTicks, time), [changes, endTicks, time]);
}

function placedChords(changes: readonly ChordEntry[], endTicks: number, time: TimeMap): PlacedChord[] {
  return chordSpans(changes, endTicks).map(({ change, startTicks, endTicks }) =>
    placed(time.secondsAt(startTicks), time.secondsAt(endTicks), change.chord),
  );
}

/** The recording's own chords, where its passage plays them. */
export function placedOwnChords(
  chords: PlacedRecording['chords'],
  { offsetSeconds, durationSeconds }: Pick<PlacedRecording, 'offsetSeconds' | 'durationSeconds'>,
  /** Seconds of the recording in song time. */
  toSong: (recordedSeconds: number) => number,
): readonly PlacedChord[] {
  if (!chords) return NONE;
  const end = offsetSeconds + durationSeconds;
  return chords.flatMap(({ startSeconds, chord }, i) => {
    const from = Math.max(offsetSeconds, startSeconds);
    const to = Math.min(end, chords.at(i + 1)?.startSeconds ?? end);
    return to > from ? [placed(toSong(from), toSong(to), chord)] : [];
  });
}
const NONE: readonly PlacedChord[] = [];

function placed(fromSeconds: number, toSeconds: number, chord: ChordEntry['chord']): PlacedChord {
  const classes = new Set(chord ? [...pitchClassesOf(chord), bassOf(chord)] : []);
  return { fromSeconds, toSeconds, chord, classes };
}

/** Names at their places; one that does not fit before the next is set smaller, then cut off at the next. */
export function drawChordRow(
  context: CanvasRenderingContext2D,
  chords: readonly PlacedChord[],
  view: TimeView,
  { left, right, top, height }: { left: number; right: number; top: number; height: number },
): void {
  context.save();
  context.textBaseline = 'alphabetic';
  context.textAlign = 'left';
  for (const { fromSeconds, toSeconds, chord } of chords) {
    const [x0, x1] = [xOf(view, fromSeconds), xOf(view, toSeconds)];
    if (x1 < left || x0 > right) continue;
    // A name whose start has been scrolled away stays at the edge for as long as its chord lasts.
    const x = Math.max(x0, left) + 4;
    const room = Math.min(x1, right) - x - 3;
    if (room < 6) continue;
    context.save();
    context.beginPath();
    context.rect(Math.max(x0, left), top, room + 7, height);
    context.clip();
    const full = chord ? drawName(context, chord, x, top, height, room) : 0;
    if (!chord && room > 20 && full === 0) {
      context.fillStyle = colours.quietInk;
      context.font = `12px ${fontFamily}`;
      context.fillText('N.C.', x, top + height - 6);
    }
    context.fillStyle = '#C9BFAB';
    if (x0 >= left) context.fillRect(x0, top + 3, 1, height - 6);
    context.restore();
  }
  context.restore();
}

const SIZE = 14;
const MIN_SIZE = 10;

/** Root and minor on the line, the rest raised, the bass after a slash. Returns the width. */
function drawName(
  context: CanvasRenderingContext2D,
  chord: Chord,
  x: number,
  top: number,
  height: number,
  room: number,
): number {
  const suffix = suffixOf(chord.degrees);
  const minor = /^m(?!aj)/.test(suffix) ? 'm' : '';
  const raised = suffix
    .slice(minor.length)
    .replace(/b(?=\d)/g, '♭')
    .replace(/#(?=\d)/g, '♯');
  const bass = chord.bass ? `/${prettyName(chord.bass)}` : '';
  const pieces: [text: string, weight: number, scale: number, up: number][] = [
    [prettyName(chord.root) + minor, 600, 1, 0],
    [raised, 600, 0.72, 0.32],
    [bass, 400, 1, 0],
  ];
  const widthAt = (size: number) =>
    pieces.reduce((sum, [text, weight, scale]) => {
      context.font = `${weight} ${size * scale}px ${fontFamily}`;
      return sum + context.measureText(text).width;
    }, 0);
  const size = Math.max(MIN_SIZE, Math.min(SIZE, (SIZE * room) / widthAt(SIZE)));
  let at = x;
  context.fillStyle = colours.ink;
  for (const [text, weight, scale, up] of pieces) {
    context.font = `${weight} ${size * scale}px ${fontFamily}`;
    context.fillText(text, at, top + height - 6 - up * size);
    at += context.measureText(text).width;
  }
  return at - x;
}
