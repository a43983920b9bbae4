/**
 * Moving the onsets of chordal recordings, and transposing them: ours beside an open library (MIT) and Debian's
 * stretcher, all told the same onsets. The clips are chords of recorded guitar notes, struck with human timing; the same
 * line struck where the onsets should go, or in the other key, is what a perfect result would sound like.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decodeAudio, encodeWav } from '@plundra/core/formats';
import { applyPatches, renderStretch, type MovedOnset } from '@plundra/core/retune';
import { createRandom, createTransform, gaussian, hannWindow, median, quantile } from '@plundra/core/signal';
import type { ClipNote } from './clips/melody.ts';
import { recordedPlayer, type Player } from './clips/players.ts';
import { loadRecordedNotes } from './clips/recordedNotes.ts';
import { locate } from './locate.ts';
import { loadOpenStretcher } from './openStretcher.ts';

const RATE = 44100;
const SECONDS = 12;
const BEAT_SECONDS = 0.6;
const TIMING_SECONDS = 0.03;
const SEMITONES = 3;
const CHORDS = [
  [43, 50, 55, 59, 62, 67],
  [40, 47, 52, 55, 59, 64],
  [48, 52, 55, 60, 64],
  [50, 57, 62, 66],
];
/** Down strokes take this long over the strings. */
const STROKE_SECONDS = 0.018;
const SOURCES = ['guitar-acoustic', 'guitar-nylon', 'guitar-electric'];

export interface Stretcher {
  name: string;
  /** Mono, as long as the input. */
  stretch(samples: Float32Array, onsets: MovedOnset[], semitones: number): Promise<Float32Array>;
}

interface ChordalClip {
  played: Float32Array;
  wanted: Float32Array;
  raised: Float32Array;
  onsets: MovedOnset[];
}

interface Figures {
  onsetMs: number[];
  attackDb: number[];
  movedDb: number[];
  raisedDb: number[];
  timesRealTime: number[];
}

export async function measureStretch(rounds: number): Promise<string> {
  const stretchers: Stretcher[] = [OURS, await loadOpenStretcher(RATE), debianStretcher];
  const figures = new Map<string, Figures>();
  for (let round = 0; round < rounds; round++)
    for (const [i, source] of SOURCES.entries()) {
      const clip = await chordalClip(source, 7700000 + round * 100 + i);
      for (const stretcher of stretchers) {
        const row = figures.get(stretcher.name) ?? emptyFigures();
        figures.set(stretcher.name, row);
        try {
          await measureClip(clip, stretcher, row);
        } catch (error) {
          if (stretcher !== debianStretcher) throw error;
          figures.delete(stretcher.name); // It is not installed.
        }
      }
      process.stderr.write('.');
    }
  process.stderr.write('\n');
  return table(figures, rounds * SOURCES.length);
}

const emptyFigures = (): Figures => ({
  onsetMs: [],
  attackDb: [],
  movedDb: [],
  raisedDb: [],
  timesRealTime: [],
});

const OURS: Stretcher = {
  name: 'Plundra',
  stretch(samples, onsets, semitones) {
    const { patches } = renderStretch([samples], RATE, {
      onsets,
      semitones,
      how: 'stretch',
      fromSeconds: 0,
      toSeconds: samples.length / RATE,
    });
    return Promise.resolve(applyPatches([samples], patches)[0]);
  },
};

async function measureClip(clip: ChordalClip, stretcher: Stretcher, row: Figures): Promise<void> {
  const started = performance.now();
  const moved = await stretcher.stretch(clip.played, clip.onsets, 0);
  row.timesRealTime.push(SECONDS / ((performance.now() - started) / 1000));
  for (const { fromSeconds, toSeconds } of clip.onsets) {
    const at = locate(clip.played, fromSeconds, moved, toSeconds, RATE);
    row.onsetMs.push(Math.abs(at - toSeconds) * 1000);
    row.attackDb.push(attack(clip.wanted, toSeconds) - attack(moved, at));
  }
  row.movedDb.push(spectralDistance(moved, clip.wanted));
  const unmoved = clip.onsets.map((onset) => ({ ...onset, toSeconds: onset.fromSeconds }));
  row.raisedDb.push(spectralDistance(await stretcher.stretch(clip.played, unmoved, SEMITONES), clip.raised));
}

async function chordalClip(source: string, seed: number): Promise<ChordalClip> {
  const random = createRandom(seed);
  const player = recordedPlayer(source, await loadRecordedNotes(source));
  const count = Math.floor((SECONDS - 1.5) / BEAT_SECONDS);
  const strokes = Array.from({ length: count }, (_, i) => {
    const toSeconds = 0.4 + i * BEAT_SECONDS;
    const off = Math.max(-0.07, Math.min(0.07, gaussian(random) * TIMING_SECONDS));
    return { id: `s${i}`, toSeconds, fromSeconds: toSeconds + off, loudness: 0.5 + 0.4 * random() };
  });
  const strike = (at: (stroke: (typeof strokes)[number]) => number, semitones: number) =>
    play(
      player,
      strokes.flatMap((stroke, i) => {
        const chord = CHORDS[Math.floor(i / 4) % CHORDS.length];
        return chord.map((midi, string): ClipNote => ({
          startSeconds: at(stroke) + (string * STROKE_SECONDS) / chord.length,
          endSeconds: i + 1 < strokes.length ? at(strokes[i + 1]) : SECONDS - 0.5,
          midi: midi + semitones,
          loudness: stroke.loudness,
          legato: false,
          gridSeconds: stroke.toSeconds,
          beatSeconds: BEAT_SECONDS,
        }));
      }),
    );
  return {
    played: await strike((stroke) => stroke.fromSeconds, 0),
    wanted: await strike((stroke) => stroke.toSeconds, 0),
    raised: await strike((stroke) => stroke.fromSeconds, SEMITONES),
    onsets: strokes,
  };
}

async function play(player: Player, notes: ClipNote[]): Promise<Float32Array> {
  const bends = new Array<number>(SECONDS * 100 + 1).fill(0);
  return (await player.play(notes, bends, SECONDS, RATE)).map((value) => value * 0.12);
}

/** Rise of the level over an attack: 15 ms after its start against the 30 ms before. */
function attack(samples: Float32Array, seconds: number): number {
  const level = (from: number, to: number) => {
    const [first, last] = [Math.round((seconds + from) * RATE), Math.round((seconds + to) * RATE)];
    let sum = 0;
    for (let i = first; i < last; i++) sum += (samples[i] ?? 0) ** 2;
    return 10 * Math.log10(sum / (last - first) + 1e-9);
  };
  return level(0, 0.015) - level(-0.03, -0.002);
}

const FFT = 2048;
const HOP = 512;
const BANDS = 36;

/** Median over frames of the RMS distance in dB over third-octave-like bands from 80 Hz to 10 kHz. */
function spectralDistance(a: Float32Array, b: Float32Array): number {
  const [one, two] = [bandLevels(a), bandLevels(b)];
  return median(
    one.flatMap((frame, t) => {
      const loud = Math.max(...two[t]);
      if (loud < -70) return [];
      // What lies 50 dB under the loudest band is not heard beside it.
      const floor = loud - 50;
      const sum = frame.reduce(
        (total, value, k) => total + (Math.max(floor, value) - Math.max(floor, two[t][k])) ** 2,
        0,
      );
      return [Math.sqrt(sum / BANDS)];
    }),
  );
}

function bandLevels(samples: Float32Array): number[][] {
  const transform = createTransform(FFT);
  const window = hannWindow(FFT);
  const input = transform.createComplex();
  const spectrum = transform.createComplex();
  const edges = Array.from({ length: BANDS + 1 }, (_, k) =>
    Math.max(k, Math.round((80 * (10000 / 80) ** (k / BANDS) * FFT) / RATE)),
  );
  const frames: number[][] = [];
  for (let at = 0; at + FFT < samples.length; at += HOP) {
    for (let i = 0; i < FFT; i++) {
      input[2 * i] = samples[at + i] * window[i];
      input[2 * i + 1] = 0;
    }
    transform.forward(spectrum, input);
    frames.push(
      edges.slice(1).map((to, k) => {
        let sum = 0;
        for (let bin = edges[k]; bin < Math.max(to, edges[k] + 1); bin++)
          sum += spectrum[2 * bin] ** 2 + spectrum[2 * bin + 1] ** 2;
        return 10 * Math.log10(sum / FFT + 1e-12);
      }),
    );
  }
  return frames;
}

/** Debian's rubberband-cli, told where each onset goes. */
const debianStretcher: Stretcher = {
  name: 'Debian rubberband',
  async stretch(samples, onsets, semitones) {
    const folder = mkdtempSync(join(tmpdir(), 'plundra-stretch-'));
    try {
      const path = (name: string) => join(folder, name);
      writeFileSync(path('in.wav'), encodeWav([samples], RATE));
      const map = onsets.map(
        ({ fromSeconds, toSeconds }) => `${Math.round(fromSeconds * RATE)} ${Math.round(toSeconds * RATE)}`,
      );
      writeFileSync(path('map'), `${map.join('\n')}\n`);
      const run = spawnSync('rubberband', [
        '-q',
        '-t',
        '1',
        '-p',
        String(semitones),
        ...(onsets.some((onset) => onset.toSeconds !== onset.fromSeconds) ? ['--timemap', path('map')] : []),
        path('in.wav'),
        path('out.wav'),
      ]);
      if (run.status !== 0) throw new Error('rubberband did not run');
      const out = new Float32Array(samples.length);
      let at = 0;
      await decodeAudio([readFileSync(path('out.wav'))], ({ channels }) => {
        out.set(channels[0].subarray(0, Math.max(0, out.length - at)), at);
        at = Math.min(out.length, at + channels[0].length);
      });
      return out;
    } finally {
      rmSync(folder, { recursive: true });
    }
  },
};

function table(figures: Map<string, Figures>, clips: number): string {
  const pair = (values: number[]) => `${median(values).toFixed(1)} / ${quantile(values, 0.95).toFixed(1)}`;
  const rows = [...figures].map(
    ([name, f]) =>
      `| ${name} | ${pair(f.onsetMs)} | ${median(f.attackDb).toFixed(1)} | ${median(f.movedDb).toFixed(2)} | ${median(f.raisedDb).toFixed(2)} | ${median(f.timesRealTime).toFixed(0)} |`,
  );
  return `## Chordal recordings

Chords of recorded guitar notes (${clips} clips), struck with a standard deviation of ${TIMING_SECONDS * 1000} ms around the beat.
Every stretcher is told the onsets and where they should go, and is compared with the same chords struck there, or struck
${SEMITONES} semitones higher.

| stretcher | starts, ms off (median / 95th) | attack lost, dB (median) | spectrum after moving, dB off | spectrum after +${SEMITONES}, dB off | times real time |
| --- | --- | --- | --- | --- | --- |
${rows.join('\n')}
`;
}
