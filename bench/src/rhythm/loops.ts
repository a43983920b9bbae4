/** Loops as the shelf hears them: tempo, key, and whether they are loops; of material that the method was not made on. */
import { computeActivations, readForShelf } from '@plundra/core/reading';
import { sameKey, tonicPitchClass, type Key } from '@plundra/core/theory';
import { chordClips } from '../chords/clips.ts';
import { RHYTHM_RATE_HZ, rhythmClips } from './clips.ts';

export interface LoopScores {
  group: string;
  loops: number;
  /** Shares: within 2 %; the same or its half or double; called a loop. */
  tempo: number;
  tempoOrOctave: number;
  called: number;
  /** Share of those with a key; NaN where none has. */
  key: number;
  keyOrRelative: number;
}

export interface LoopMeasures {
  scores: LoopScores[];
  /** Recordings that are none, and how many of them were called loops. */
  others: number;
  calledLoops: number;
}

interface Row {
  tempo: boolean;
  octave: boolean;
  called: boolean;
  key?: boolean;
  relative?: boolean;
}

/** Earlier rounds were looked at while the method was made. */
const FIRST_ROUND = 24;
const FIRST_CHORD_ROUND = 40;
const WITHIN = 0.02;
/** Loops of so many bars, in turn. */
const BARS = [1, 2, 4, 8];
const CHORD_BARS = [2, 4];

export async function measureLoops(rounds: number): Promise<LoopMeasures> {
  const rows = new Map<string, Row[]>();
  const add = (groups: readonly string[], row: Row) => {
    for (const group of [...groups, 'all']) rows.set(group, [...(rows.get(group) ?? []), row]);
  };
  let [others, calledLoops, at] = [0, 0, 0];
  for await (const clip of rhythmClips('test', 8 * rounds, undefined, FIRST_ROUND)) {
    if (!clip.loop) {
      others++;
      if (read(clip.samples, clip.kind === 'drums').loop) calledLoops++;
      continue;
    }
    const bars = BARS[at++ % BARS.length];
    const beats = Math.min(clip.beats.length, bars * clip.metre.beats);
    const seconds = clip.beats[beats] ?? clip.durationSeconds;
    const quarters = beats * (clip.metre.compound ? 1.5 : 1);
    const reading = read(
      clip.samples.subarray(0, Math.round(seconds * RHYTHM_RATE_HZ)),
      clip.kind === 'drums',
    );
    add([clip.kind, barsName(bars)], tempoRow(reading, (60 * quarters) / seconds));
    process.stderr.write('.');
  }
  at = 0;
  for await (const clip of chordClips('test', FIRST_CHORD_ROUND + 2 * rounds, false, FIRST_CHORD_ROUND)) {
    const bars = CHORD_BARS[at++ % CHORD_BARS.length];
    const [from, to] = [clip.downbeats[0], clip.downbeats[bars]];
    if (to === undefined) continue;
    const samples = clip.samples.slice(
      Math.round(from * clip.sampleRateHz),
      Math.round(to * clip.sampleRateHz),
    );
    const quarters = bars * (clip.metre === '4/4' ? 4 : 3);
    const reading = read(samples, false);
    const key = reading.key?.key;
    add(['cut out of arrangements', barsName(bars)], {
      ...tempoRow(reading, (60 * quarters) / (to - from)),
      key: key !== undefined && sounds(key, clip.key),
      relative: key !== undefined && (sounds(key, clip.key) || key.fifths === clip.key.fifths),
    });
    process.stderr.write('.');
  }
  process.stderr.write('\n');
  return { scores: [...rows].map(([group, all]) => scoresOf(group, all)), others, calledLoops };
}

const barsName = (bars: number) => `${bars} ${bars === 1 ? 'bar' : 'bars'}`;
const sounds = (a: Key, b: Key) =>
  sameKey(a, b) || (a.mode === b.mode && tonicPitchClass(a) === tonicPitchClass(b));

const read = (samples: Float32Array, drums: boolean) =>
  readForShelf(samples, computeActivations(samples, { coarse: true }), drums);

function tempoRow({ tempo, loop }: ReturnType<typeof read>, bpm: number): Row {
  const within = (factor: number) => tempo !== null && Math.abs(tempo.bpm / (bpm * factor) - 1) <= WITHIN;
  return { tempo: within(1), octave: [0.5, 1, 2].some(within), called: loop };
}

function scoresOf(group: string, rows: readonly Row[]): LoopScores {
  const share = (of: (row: Row) => boolean | undefined) => {
    const known = rows.map(of).filter((each) => each !== undefined);
    return known.filter(Boolean).length / known.length;
  };
  return {
    group,
    loops: rows.length,
    tempo: share((row) => row.tempo),
    tempoOrOctave: share((row) => row.octave),
    called: share((row) => row.called),
    key: share((row) => row.key),
    keyOrRelative: share((row) => row.relative),
  };
}

/** docs/loops.md */
export function loopsPage({ scores, others, calledLoops }: LoopMeasures): string {
  const two = (value: number) => (Number.isNaN(value) ? '–' : value.toFixed(2));
  const rows = scores.map(
    (row) =>
      `| ${row.group} | ${row.loops} | ${two(row.tempo)} | ${two(row.tempoOrOctave)} | ${two(row.called)} | ${two(row.key)} | ${two(row.keyOrRelative)} |`,
  );
  return `# Loops

Written by \`npm run bench loops\`: what the shelf finds by listening. Loops of 1 to 8 bars: patterns played as loops (bench/src/rhythm), and
stretches of two and four bars cut out of arrangements at their bar lines, with what rings over the cut cut off (bench/src/chords).

**Left out**: the bank (TimGM6mb), the drum patterns and the seeds were neither trained on nor looked at; the weights of
\`core/reading/rhythm/readLoop.ts\` were chosen on other patterns by other banks. What is shared with the training are the composers of
strums, chords and lines. No loop that somebody else made was measured.

| loops | number | tempo within 2 % | or its half or double | called a loop | key | or its relative |
| --- | --- | --- | --- | --- | --- | --- |
${rows.join('\n')}

Wanted: tempo 0.95, key 0.90. Of ${others} recordings that begin and end anywhere, ${calledLoops} were called loops. A recording that is not
called a loop is read as any other, so its tempo may be less exact; one click says what it is.
`;
}
