/**
 * What correction reaches on lines with known errors. Pitch is measured by a reference library (aubio), starts by the
 * envelope, both independent of the reader; the notes are found by the reader itself.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decodeAudio, encodeWav } from '@plundra/core/formats';
import { readMelody } from '@plundra/core/reading';
import { applyPatches, createRetuner, type CorrectedNote } from '@plundra/core/retune';
import { createTransform, median, quantile } from '@plundra/core/signal';
import { createSong, createTimeMap, pullToGrid } from '@plundra/core/song';
import { hzToMidi } from '@plundra/core/theory';
import { locate } from './locate.ts';
import { createAubioPitch } from './references.ts';
import { buildRetuneClips, RETUNE_RATE_HZ as RATE, type RetuneClip } from './retuneClips.ts';

export interface RetuneFigures {
  group: string;
  clips: number;
  /** Absolute cents of frames in the middle of notes: before, after, and of the line sung without errors. */
  cents: Record<'before' | 'after' | 'floor', number[]>;
  /** Absolute milliseconds of starts. */
  onsetMs: Record<'before' | 'after', number[]>;
  /** Vibrato depth after over before, vibrato kept. */
  vibrato: number[];
  /** Distance of spectral envelopes in dB after +3 semitones: ours and the reference. */
  envelopeDb: { ours: number[]; reference: number[] };
  timesRealTime: number[];
  referenceTimesRealTime: number[];
}

export async function measureRetune(rounds: number): Promise<RetuneFigures[]> {
  const groups = new Map<string, RetuneFigures>();
  for await (const clip of buildRetuneClips(rounds)) {
    const figures = groups.get(clip.group) ?? {
      group: clip.group,
      clips: 0,
      cents: { before: [], after: [], floor: [] },
      onsetMs: { before: [], after: [] },
      vibrato: [],
      envelopeDb: { ours: [], reference: [] },
      timesRealTime: [],
      referenceTimesRealTime: [],
    };
    groups.set(clip.group, figures);
    figures.clips++;
    await measureClip(clip, figures);
    process.stderr.write('.');
  }
  process.stderr.write('\n');
  return [...groups.values()];
}

async function measureClip(clip: RetuneClip, figures: RetuneFigures): Promise<void> {
  const { samples } = clip;
  const reading = readMelody(samples, RATE, clip.kind);
  const found = reading.notes.map((note, i): CorrectedNote => ({
    ...note,
    id: String(i),
    toMidi: note.midi,
    toStartSeconds: note.startSeconds,
    toEndSeconds: note.endSeconds,
    vibratoKept: 1,
    driftKept: 1,
  }));
  const started = performance.now();
  const retuner = createRetuner([samples], RATE, reading.contour);
  const render = (notes: CorrectedNote[]) => applyPatches([samples], retuner.render(notes).patches)[0];
  const tuned = render(
    found.map((note) => ({ ...note, toMidi: Math.round(note.midi), vibratoKept: 0, driftKept: 0 })),
  );
  figures.timesRealTime.push(samples.length / RATE / ((performance.now() - started) / 1000));

  const hzBefore = await pitchTrack(samples, clip);
  const hzTuned = await pitchTrack(tuned, clip);
  const hzClean = await pitchTrack(clip.clean, clip);
  for (const note of clip.notes) {
    figures.cents.before.push(
      ...offCents(samples, hzBefore, note.startSeconds, note.endSeconds, note.toMidi),
    );
    figures.cents.after.push(...offCents(tuned, hzTuned, note.startSeconds, note.endSeconds, note.toMidi));
    const length = note.endSeconds - note.startSeconds;
    figures.cents.floor.push(
      ...offCents(clip.clean, hzClean, note.toStartSeconds, note.toStartSeconds + length, note.toMidi),
    );
  }

  const pulled = render(pullAll(found, clip));
  for (const note of clip.notes) {
    if (note.legato) continue;
    const moved = locate(samples, note.startSeconds, pulled, note.toStartSeconds, RATE);
    figures.onsetMs.before.push(Math.abs(note.startSeconds - note.toStartSeconds) * 1000);
    figures.onsetMs.after.push(Math.abs(moved - note.toStartSeconds) * 1000);
  }

  const kept = render(found.map((note) => ({ ...note, toMidi: Math.round(note.midi) })));
  const hzKept = await pitchTrack(kept, clip);
  for (const note of clip.notes.filter((each) => each.vibrato)) {
    const before = depth(hzBefore, note.startSeconds, note.endSeconds);
    const after = depth(hzKept, note.startSeconds, note.endSeconds);
    if (before > 10) figures.vibrato.push(after / before);
  }

  if (clip.group !== 'singing') return;
  const raised = render(found.map((note) => ({ ...note, toMidi: note.midi + 3 })));
  figures.envelopeDb.ours.push(envelopeDistance(samples, raised));
  const reference = await stretchReference(samples);
  if (!reference) return;
  figures.envelopeDb.reference.push(envelopeDistance(samples, reference.samples));
  figures.referenceTimesRealTime.push(samples.length / RATE / reference.seconds);
}

function pullAll(notes: CorrectedNote[], clip: RetuneClip): CorrectedNote[] {
  const time = createTimeMap({
    ...createSong('bench', 'Bench'),
    tempoMap: [{ startTicks: 0, bpm: 60 / clip.beatSeconds }],
  });
  const { pulled } = pullToGrid(
    notes.map((note) => note.startSeconds - clip.firstBeatSeconds),
    { grid: '1/8', pull: 1, swing: 0, leaveAloneBeyondSeconds: null },
    time,
  );
  return notes.map((note, i) => {
    const by = pulled[i].toSeconds - pulled[i].fromSeconds;
    return { ...note, toStartSeconds: note.startSeconds + by, toEndSeconds: note.endSeconds + by };
  });
}

const HOP = 256;

async function pitchTrack(samples: Float32Array, clip: RetuneClip): Promise<(seconds: number) => number> {
  const window = clip.kind === 'bass' ? 8192 : 2048;
  const detect = await createAubioPitch(window, HOP, RATE);
  const hz: number[] = [];
  for (let at = 0; at + HOP <= samples.length; at += HOP) hz.push(detect(samples.subarray(at, at + HOP)));
  // An answer belongs to the middle of the window that ends with its hop.
  return (seconds) => hz[Math.round((seconds * RATE + window / 2) / HOP) - 1] ?? 0;
}

/** The middle of a note: after scoop and attack, before the release. */
function middle(startSeconds: number, endSeconds: number): number[] {
  const times: number[] = [];
  for (let t = startSeconds + 0.14; t < endSeconds - 0.08; t += HOP / RATE) times.push(t);
  return times;
}

/** Frames that sound: a plucked note may be over before its time is. */
const SOUNDING = 0.01;

function offCents(
  samples: Float32Array,
  hz: (seconds: number) => number,
  start: number,
  end: number,
  midi: number,
): number[] {
  const sounds = (t: number) => {
    const at = Math.round(t * RATE);
    let sum = 0;
    for (let i = at - HOP; i < at + HOP; i++) sum += (samples[i] ?? 0) ** 2;
    return Math.sqrt(sum / (2 * HOP)) > SOUNDING;
  };
  return middle(start, end)
    .filter(sounds)
    .map((t) => (hz(t) > 0 ? Math.abs(hzToMidi(hz(t)) - midi) * 100 : 1200));
}

/** Half the distance of the extremes over the last part of a note, where vibrato has grown, in cents. */
function depth(hz: (seconds: number) => number, start: number, end: number): number {
  const midi = middle(start + 0.3, end).flatMap((t) => (hz(t) > 0 ? [hzToMidi(hz(t))] : []));
  if (midi.length < 40) return 0;
  return (quantile(midi, 0.95) - quantile(midi, 0.05)) * 50;
}

const FFT = 2048;

/** RMS distance in dB of the mean spectra in bands of 250 Hz up to 5 kHz, level apart. */
function envelopeDistance(a: Float32Array, b: Float32Array): number {
  const [one, two] = [bands(a), bands(b)];
  const difference = one.map((value, i) => value - two[i]);
  const mean = difference.reduce((sum, value) => sum + value, 0) / difference.length;
  return Math.sqrt(difference.reduce((sum, value) => sum + (value - mean) ** 2, 0) / difference.length);
}

function bands(samples: Float32Array): number[] {
  const transform = createTransform(FFT);
  const input = transform.createComplex();
  const spectrum = transform.createComplex();
  const power = new Float64Array(FFT / 2);
  for (let at = 0; at + FFT < samples.length; at += FFT) {
    for (let i = 0; i < FFT; i++) {
      input[2 * i] = samples[at + i] * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / FFT));
      input[2 * i + 1] = 0;
    }
    transform.forward(spectrum, input);
    for (let k = 0; k < power.length; k++) power[k] += spectrum[2 * k] ** 2 + spectrum[2 * k + 1] ** 2;
  }
  const width = Math.round((250 * FFT) / RATE);
  return Array.from({ length: 20 }, (_, band) => {
    let sum = 0;
    for (let k = 0; k < width; k++) sum += power[band * width + k + 4];
    return 10 * Math.log10(sum + 1e-9);
  });
}

/** Debian's rubberband-cli with its formant option, where it is installed. */
async function stretchReference(
  samples: Float32Array,
): Promise<{ samples: Float32Array; seconds: number } | undefined> {
  const folder = mkdtempSync(join(tmpdir(), 'plundra-stretch-'));
  try {
    writeFileSync(join(folder, 'in.wav'), encodeWav([samples], RATE));
    const started = performance.now();
    const run = spawnSync('rubberband', [
      '-q',
      '-F',
      '-p',
      '3',
      join(folder, 'in.wav'),
      join(folder, 'out.wav'),
    ]);
    if (run.status !== 0) return undefined;
    const seconds = (performance.now() - started) / 1000;
    const blocks: Float32Array[] = [];
    await decodeAudio(
      [readFileSync(join(folder, 'out.wav'))],
      ({ channels }) => void blocks.push(channels[0].slice()),
    );
    const out = new Float32Array(blocks.reduce((sum, block) => sum + block.length, 0));
    let at = 0;
    for (const block of blocks) {
      out.set(block, at);
      at += block.length;
    }
    return { samples: out, seconds };
  } finally {
    rmSync(folder, { recursive: true });
  }
}

/** `chordal`: the section on chordal recordings. */
export function retunePage(groups: RetuneFigures[], chordal: string): string {
  const pair = (values: number[], digits = 1) =>
    values.length > 0 ? `${median(values).toFixed(digits)} / ${quantile(values, 0.95).toFixed(digits)}` : '–';
  const one = (values: number[], digits = 1) =>
    values.length > 0 ? median(values).toFixed(digits) : 'not installed';
  const rows: [string, string, (figures: RetuneFigures) => string][] = [
    ['pitch as played, cents off (median / 95th)', '', (f) => pair(f.cents.before)],
    ['pitch after the full pull', '≤ 3.5 / 12', (f) => pair(f.cents.after)],
    ['the same line made without errors (floor of the measurement)', '', (f) => pair(f.cents.floor)],
    ['starts as played, ms off (median / 95th)', '', (f) => pair(f.onsetMs.before)],
    ['starts after the full pull', '≤ 4 / 12', (f) => pair(f.onsetMs.after)],
    [
      'depth of vibrato after over before, vibrato kept 100 %',
      '0.9–1.1',
      (f) => (f.vibrato.length > 0 ? one(f.vibrato, 2) : '–'),
    ],
    [
      'spectral envelope after +3 semitones, dB off: ours / Debian rubberband with formants',
      'ours ≤ reference',
      (f) =>
        f.group === 'singing' ? `${one(f.envelopeDb.ours, 2)} / ${one(f.envelopeDb.reference, 2)}` : '–',
    ],
    [
      'speed of resynthesis, measuring the periods included, times real time: ours / reference',
      '≥ 30',
      (f) => `${one(f.timesRealTime, 0)} / ${f.group === 'singing' ? one(f.referenceTimesRealTime, 0) : '–'}`,
    ],
  ];
  return `# Accuracy of correction

Made by \`npm run bench\`. Lines with known errors (each note up to ±35 cents off on top of the singer's own drift, starts with a standard deviation of
25 ms) are read, and pulled fully to the nearest note and to the grid, without being told anything. Pitch is measured
by a reference library (aubio, yinfft) in the middle of every note, starts by matching the envelope around them with
the recording's, so neither by our own reader. The singer is made of formant waves, the plucked lines of notes recorded
one by one; neither was used to make the method.

| | wanted | ${groups.map((f) => `${f.group} (${f.clips} clips)`).join(' | ')} |
| --- | --- | ${groups.map(() => '---').join(' | ')} |
${rows.map(([what, wanted, show]) => `| ${what} | ${wanted} | ${groups.map(show).join(' | ')} |`).join('\n')}

${chordal}`;
}
