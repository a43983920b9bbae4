/** Reads a sound file, with the numbers rounded to what they are worth, ready for JSON. */
import type {
  ChordsRequest,
  ChordsResult,
  HitsResult,
  MaterialResult,
  MelodyResult,
  NotesResult,
  OnsetsResult,
  ShelfReading,
} from '@plundra/contract';
import {
  combineActivations,
  computeActivations,
  createChordalReader,
  createHitReader,
  createMelodyReader,
  createOnsetReader,
  decodeNotes,
  HOP_SECONDS,
  judgeMaterial,
  keptHits,
  MATERIAL_SECONDS,
  READING_HZ,
  readChords,
  readForShelf,
  type Activations,
  type ChordalReader,
  type HitReader,
  type MelodyKind,
  type MelodyReader,
  type OnsetReader,
  type ReadNote,
} from '@plundra/core/reading';
import { createResampler, finiteSamples, type StreamResampler } from '@plundra/core/signal';
import { decodeFile } from '../recordings/soundFile.ts';
import { loadActivations, saveActivations } from './activationsFile.ts';

export async function readMelodyFile(
  path: string,
  kind: MelodyKind,
  onProgress?: (share: number) => void,
): Promise<MelodyResult> {
  let reader: MelodyReader | undefined;
  await decodeFile(
    path,
    (mono, sampleRateHz) => {
      reader ??= createMelodyReader(sampleRateHz, kind);
      reader.push(mono);
    },
    onProgress,
  );
  const reading = reader!.finish();
  return {
    kind: reading.kind,
    tuningCents: reading.tuningCents,
    contour: {
      hopSeconds: reading.contour.hopSeconds,
      // A hundredth of a hertz is 0.4 cents at the lowest note.
      f0Hz: Array.from(reading.contour.f0Hz, (value) => round(value, 2)),
      confidence: Array.from(reading.contour.confidence, (value) => round(value, 2)),
    },
    notes: reading.notes.map(roundNote),
    faintNotes: reading.faintNotes.map(roundNote),
  };
}

/** Share of a chordal reading that decoding the file takes. */
const DECODING_SHARE = 0.1;

/** What sounds in a chordal recording, from which its notes are taken. */
export async function readActivationsFile(
  path: string,
  onProgress: (share: number) => void = () => undefined,
): Promise<Activations> {
  let reader: ChordalReader | undefined;
  await decodeFile(
    path,
    (mono, sampleRateHz) => {
      reader ??= createChordalReader(sampleRateHz);
      reader.push(mono);
    },
    (share) => onProgress(DECODING_SHARE * share),
  );
  return reader!.finish((share) => onProgress(DECODING_SHARE + (1 - DECODING_SHARE) * share));
}

/** The notes in activations at a sensitivity of 0–100. */
export function notesOf(activations: Activations, sensitivity: number): NotesResult {
  return {
    tuningCents: round(activations.tuningCents, 1),
    notes: decodeNotes(activations, { sensitivity: sensitivity / 100 }).map(roundNote),
  };
}

/** A recording whose chords are read, alone or with others. */
export interface ChordSource {
  path: string;
  /** How much later than the first it begins. */
  laterSeconds: number;
  /** Where activations are kept; absent: nowhere. */
  kept?: ActivationsPaths;
}

export interface ActivationsPaths {
  /** Those of every frame, from which notes are read. */
  full: string;
  /** Those of every other frame. */
  coarse: string;
}

/**
 * Tempo, key and chords of recordings that play together. Activations that were kept are used, those of every frame rather
 * than those of every other; new ones are of every other and are kept.
 * @param asked beats that are known, in seconds of the first recording, or what is known of the tempo
 */
export async function readChordsFiles(
  sources: readonly ChordSource[],
  onProgress: (share: number) => void = () => undefined,
  asked: Pick<ChordsRequest, 'beats' | 'nearBpm'> = {},
): Promise<ChordsResult> {
  const parts: { activations: Activations; laterFrames: number }[] = [];
  let samples: Float32Array = new Float32Array(0);
  for (const [i, { path, laterSeconds, kept }] of sources.entries()) {
    const tell = (share: number) => onProgress((i + share) / sources.length);
    const own = await readSamples(path, (share) => tell(DECODING_SHARE * share));
    const known = kept && ((await loadActivations(kept.full)) ?? (await loadActivations(kept.coarse)));
    const activations =
      known ??
      computeActivations(own, {
        coarse: true,
        onProgress: (share) => tell(DECODING_SHARE + (0.95 - DECODING_SHARE) * share),
      });
    if (!known && kept) await saveActivations(kept.coarse, activations);
    const laterFrames = Math.round(laterSeconds / HOP_SECONDS);
    parts.push({ activations, laterFrames });
    samples =
      sources.length === 1 ? own : mixed(samples, own, Math.round(laterFrames * HOP_SECONDS * READING_HZ));
  }
  const activations = parts.length === 1 ? parts[0].activations : combineActivations(parts);
  return chordsResult(samples, activations, asked);
}

/** Kind, tempo and key for the shelf; notes of what came before say nothing here, so nothing is kept. */
export async function readShelfFile(
  path: string,
  onProgress: (share: number) => void = () => undefined,
  /** It is a loop, whatever it sounds like. */
  asLoop = false,
): Promise<ShelfReading & { durationSeconds: number }> {
  const { material } = await judgeMaterialFile(path, (share) => onProgress(0.5 * share));
  const samples = await readSamples(path, () => undefined);
  const activations = computeActivations(samples, {
    coarse: true,
    onProgress: (share) => onProgress(0.5 + 0.45 * share),
  });
  const { loop, tempo, key } = readForShelf(samples, activations, material === 'drums', asLoop);
  return {
    durationSeconds: samples.length / READING_HZ,
    material,
    loop,
    tempo: tempo && {
      ...tempo,
      bpm: round(tempo.bpm, 3),
      firstBeatSeconds: round(tempo.firstBeatSeconds, 3),
      confidence: round(tempo.confidence, 2),
    },
    key: key && { key: key.key, confidence: round(key.confidence, 2) },
  };
}

/** Mono at the rate of reading. */
async function readSamples(path: string, onProgress: (share: number) => void): Promise<Float32Array> {
  const pieces: Float32Array[] = [];
  let resampler: StreamResampler | undefined;
  await decodeFile(
    path,
    (mono, sampleRateHz) => {
      resampler ??= createResampler(sampleRateHz, READING_HZ);
      pieces.push(resampler.push(finiteSamples(mono)));
    },
    onProgress,
  );
  pieces.push(resampler!.finish());
  const samples = new Float32Array(pieces.reduce((sum, piece) => sum + piece.length, 0));
  let at = 0;
  for (const piece of pieces) {
    samples.set(piece, at);
    at += piece.length;
  }
  return samples;
}

/** `added` laid over `samples` from a frame on. */
function mixed(samples: Float32Array, added: Float32Array, atFrame: number): Float32Array {
  const sum = new Float32Array(Math.max(samples.length, atFrame + added.length));
  sum.set(samples);
  for (let i = 0; i < added.length; i++) sum[atFrame + i] += added[i];
  return sum;
}

function chordsResult(
  samples: Float32Array,
  activations: Activations,
  { beats, nearBpm }: Pick<ChordsRequest, 'beats' | 'nearBpm'>,
): ChordsResult {
  const reading = readChords(samples, activations, { beats, onlyIfHeard: !beats?.always, nearBpm });
  const three = (value: number) => round(value, 3);
  return {
    tempo: {
      ...reading.tempo,
      bpm: round(reading.tempo.bpm, 2),
      beats: reading.tempo.beats.map(three),
      downbeats: reading.tempo.downbeats.map(three),
    },
    keyChanges: reading.keyChanges.map(({ startSeconds, key }) => ({
      startSeconds: three(startSeconds),
      key,
    })),
    keys: reading.keys.map(({ key, confidence }) => ({ key, confidence: three(confidence) })),
    tuningCents: round(reading.tuningCents, 1),
    chords: reading.chords.map((each) => ({
      ...each,
      startSeconds: three(each.startSeconds),
      endSeconds: three(each.endSeconds),
      confidence: three(each.confidence),
      alternatives: each.alternatives.map(({ chord, score }) => ({
        chord,
        score: three(score),
      })),
    })),
  };
}

/** The hits of a drum recording at a sensitivity of 0–100. */
export async function readHitsFile(
  path: string,
  sensitivity: number,
  onProgress?: (share: number) => void,
): Promise<HitsResult> {
  let reader: HitReader | undefined;
  await decodeFile(
    path,
    (mono, sampleRateHz) => {
      reader ??= createHitReader(sampleRateHz);
      reader.push(mono);
    },
    onProgress,
  );
  return {
    hits: keptHits(reader!.finish(), sensitivity / 100).map((hit) => ({
      ...hit,
      seconds: round(hit.seconds, 4),
      evidence: round(hit.evidence, 3),
      confidence: round(hit.confidence, 3),
    })),
  };
}

/** Which reading suits a recording, judged by its first half minute. */
export async function judgeMaterialFile(
  path: string,
  onProgress?: (share: number) => void,
): Promise<MaterialResult> {
  let chordal: ChordalReader | undefined;
  let hits: HitReader | undefined;
  let left = 0;
  await decodeFile(path, (mono, sampleRateHz) => {
    if (!chordal) left = MATERIAL_SECONDS * sampleRateHz;
    chordal ??= createChordalReader(sampleRateHz);
    hits ??= createHitReader(sampleRateHz);
    const piece = mono.subarray(0, Math.max(0, left));
    left -= piece.length;
    chordal.push(piece);
    hits.push(piece);
  });
  return judgeMaterial(chordal!.finish(onProgress), hits!.finish());
}

function roundNote(note: ReadNote): ReadNote {
  return {
    startSeconds: round(note.startSeconds, 4),
    endSeconds: round(note.endSeconds, 4),
    midi: round(note.midi, 3),
    velocity: note.velocity,
    confidence: round(note.confidence, 3),
  };
}

export async function readOnsetsFile(
  path: string,
  onProgress?: (share: number) => void,
): Promise<OnsetsResult> {
  let reader: OnsetReader | undefined;
  await decodeFile(
    path,
    (mono, sampleRateHz) => {
      reader ??= createOnsetReader(sampleRateHz);
      reader.push(mono);
    },
    onProgress,
  );
  return {
    onsets: reader!.finish().map(({ seconds, salience }) => ({
      seconds: round(seconds, 4),
      salience: round(salience, 3),
    })),
  };
}

function round(value: number, digits: number): number {
  const factor = 10 ** digits;
  return Math.round(value * factor) / factor;
}
