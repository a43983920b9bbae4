/**
 * Makes spoken syllables sing: a vocoder of source and filter. The filter of each frame is the smoothed spectrum of the speech
 * (cepstrum: Oppenheim 1969; lifted to its peaks: Röbel & Rodet 2005); consonants keep their length, vowels are drawn out over the
 * note, and pulses with the sung pitch or noise take the place of the speaker's own voice. Murmurs (m, n, l, r, v) carry the pitch of
 * their note from their first moment on.
 */
import { clamp, createTransform, hannWindow, type Random } from '@plundra/core/signal';
import { SYLLABLE_RATE_HZ as RATE, type SpokenSyllable } from './spokenSyllables.ts';

const SIZE = 1024;
const HOP = 128;
const WINDOW = 512;
/** Coefficients of the cepstrum: formants, not harmonics. */
const ORDER = 44;
const PEAK_ROUNDS = 4;
const FRAME_SECONDS = HOP / RATE;
/** How much of what a spoken vowel swells and fades by is taken off where it is drawn out: it would sound like struck anew. */
const HELD_EVENLY = 0.8;

const transform = createTransform(SIZE);
const window = hannWindow(WINDOW);

interface Frame {
  /** Real cepstrum of the smoothed spectrum, natural logarithm, ORDER values. */
  cepstrum: Float32Array;
  voiced: boolean;
  levelDb: number;
}

/** A syllable taken apart. Places are frames of {@link FRAME_SECONDS}. */
export interface Syllable {
  start: SpokenSyllable['start'];
  frames: Frame[];
  /** First sound, first frame with a pitch, and the steady part of the vowel. */
  first: number;
  pitched: number;
  vowelFrom: number;
  vowelTo: number;
  last: number;
}

/** Analyses a syllable; `tract` above 1 is a shorter vocal tract. Nothing where no vowel is found. */
export function analyseSyllable(spoken: SpokenSyllable, tract: number): Syllable | undefined {
  const { samples } = spoken;
  const frames: Frame[] = [];
  for (let at = 0; at + WINDOW < samples.length; at += HOP) frames.push(analyse(samples, at, tract));
  const loudest = Math.max(...frames.map((frame) => frame.levelDb));
  const sounding = (frame: Frame, belowDb: number) => frame.levelDb > loudest - belowDb;
  const first = frames.findIndex((frame) => sounding(frame, 38));
  // A stop's murmur before it opens does not count.
  const need = spoken.start === 'unvoiced' ? 16 : 26;
  const pitched = frames.findIndex(
    (_, i) => i >= first && [0, 1, 2, 3].every((k) => frames[i + k]?.voiced && sounding(frames[i + k], need)),
  );
  if (pitched < 0) return undefined;
  let vowelFrom = frames.findIndex((frame, i) => i > pitched && frame.voiced && sounding(frame, 3));
  if (vowelFrom < 0) return undefined;
  if (spoken.start === 'murmur') vowelFrom = Math.max(vowelFrom, pitched + 10);
  let vowelTo = vowelFrom;
  while (frames[vowelTo + 1]?.voiced && sounding(frames[vowelTo + 1], 7)) vowelTo++;
  if (vowelTo - vowelFrom < 6) return undefined;
  let last = vowelTo;
  while (last + 1 < frames.length && sounding(frames[last + 1], 30)) last++;
  return { start: spoken.start, frames, first, pitched, vowelFrom, vowelTo, last };
}

/**
 * The same syllable with what comes before its vowel `depth` times as far from the vowel in sound and loudness: below 1 a speaker
 * who hardly closes the mouth, above 1 one who closes it well.
 */
export function withMurmur(syllable: Syllable, depth: number): Syllable {
  const { pitched, vowelFrom } = syllable;
  const vowel = syllable.frames[vowelFrom].cepstrum;
  const frames = syllable.frames.map((frame, i) =>
    i < pitched || i >= vowelFrom
      ? frame
      : { ...frame, cepstrum: frame.cepstrum.map((value, n) => vowel[n] + depth * (value - vowel[n])) },
  );
  return { ...syllable, frames };
}

function analyse(samples: Float32Array, at: number, tract: number): Frame {
  const input = transform.createComplex().fill(0);
  const out = transform.createComplex();
  let energy = 0;
  for (let i = 0; i < WINDOW; i++) {
    input[2 * i] = samples[at + i] * window[i];
    energy += samples[at + i] ** 2;
  }
  transform.forward(out, input);
  const half = SIZE / 2;
  const own = new Float32Array(half + 1);
  for (let k = 0; k <= half; k++) own[k] = Math.log(Math.hypot(out[2 * k], out[2 * k + 1]) + 1e-5);
  const logs = new Float32Array(half + 1);
  for (let k = 0; k <= half; k++) {
    const from = Math.min(half - 1e-3, k / tract);
    const low = Math.floor(from);
    logs[k] = own[low] + (own[low + 1] - own[low]) * (from - low);
  }
  let cepstrum = new Float32Array(ORDER);
  const raised = logs.slice();
  for (let round = 0; round < PEAK_ROUNDS; round++) {
    cepstrum = cepstrumOf(raised);
    if (round === PEAK_ROUNDS - 1) break;
    const smooth = logSpectrum(cepstrum);
    for (let k = 0; k <= half; k++) raised[k] = Math.max(logs[k], smooth[k]);
  }
  return {
    cepstrum,
    voiced: periodicity(samples, at) > 0.6,
    levelDb: 10 * Math.log10(energy / WINDOW + 1e-10),
  };
}

function cepstrumOf(logs: Float32Array): Float32Array<ArrayBuffer> {
  const input = transform.createComplex().fill(0);
  const out = transform.createComplex();
  for (let k = 0; k < SIZE; k++) input[2 * k] = logs[k <= SIZE / 2 ? k : SIZE - k];
  transform.inverse(out, input);
  return Float32Array.from({ length: ORDER }, (_, n) => out[2 * n]);
}

function logSpectrum(cepstrum: Float32Array): Float32Array {
  const input = transform.createComplex().fill(0);
  const out = transform.createComplex();
  for (let n = 0; n < ORDER; n++) {
    input[2 * n] = cepstrum[n];
    if (n > 0) input[2 * (SIZE - n)] = cepstrum[n];
  }
  transform.forward(out, input);
  return Float32Array.from({ length: SIZE / 2 + 1 }, (_, k) => out[2 * k]);
}

/** Highest normalised correlation with itself at a lag of a speaking voice (61 Hz and up), −1…1. */
function periodicity(samples: Float32Array, at: number): number {
  const length = 400;
  let best = 0;
  for (let lag = 55; lag <= 360 && at + length + lag < samples.length; lag += 2) {
    let product = 0;
    let a = 1e-7;
    let b = 1e-7;
    for (let i = at; i < at + length; i += 2) {
      product += samples[i] * samples[i + lag];
      a += samples[i] ** 2;
      b += samples[i + lag] ** 2;
    }
    best = Math.max(best, product / Math.sqrt(a * b));
  }
  return best;
}

/** A note to be sung. Times are those of the pitch: what comes before it without one is added. */
export interface SyllableNote {
  startSeconds: number;
  endSeconds: number;
  loudness: number;
  /** Joined to the note before without a silence. */
  legato: boolean;
  /** A new syllable, or the vowel of the note before goes on. */
  syllable: Syllable | undefined;
  /** How much longer (above 1) or shorter than spoken its consonant is. */
  consonantStretch: number;
}

export interface SingingVoice {
  /** 0–1: noise beside the pulses. */
  breath: number;
  /** 0–1: every other pulse is weaker, and the pulses are uneven. */
  growl: number;
}

interface Place {
  cepstrum: Float32Array;
  voiced: number;
  gain: number;
}

/**
 * Sings `notes`, which are in order and do not overlap. `f0Hz` gives the pitch at a time, also between notes. `pitched` tells where a
 * pitch can be heard, one value for each frame of `frameSeconds`.
 */
export function singSyllables(
  notes: readonly SyllableNote[],
  f0Hz: (seconds: number) => number,
  voice: SingingVoice,
  durationSeconds: number,
  random: Random,
): { samples: Float32Array; pitched: boolean[]; frameSeconds: number } {
  const frames = Math.ceil(durationSeconds / FRAME_SECONDS);
  const places: (Place | undefined)[] = new Array<Place | undefined>(frames).fill(undefined);
  notes.forEach((note, i) => {
    if (note.syllable) place(places, notes, i);
  });
  const samples = new Float32Array(Math.ceil(durationSeconds * RATE));
  const [pulses, noise] = excitation(samples.length, f0Hz, voice, random);
  const out = new Float32Array(samples.length + SIZE);
  places.forEach((each, t) => {
    if (each) addFrame(out, pulses, noise, t * HOP, each, voice.breath);
  });
  samples.set(out.subarray(0, samples.length));
  let peak = 1e-9;
  for (const value of samples) peak = Math.max(peak, Math.abs(value));
  for (let i = 0; i < samples.length; i++) samples[i] *= 0.5 / peak;
  return {
    samples,
    pitched: places.map((each) => each !== undefined && each.voiced > 0.5 && each.gain > 0.06),
    frameSeconds: FRAME_SECONDS,
  };
}

/** Lays the frames of a syllable over the notes it is sung on. */
function place(places: (Place | undefined)[], notes: readonly SyllableNote[], index: number): void {
  const note = notes[index];
  const syllable = note.syllable!;
  let end = index;
  while (notes[end + 1] && !notes[end + 1].syllable && notes[end + 1].legato) end++;
  const next = notes[end + 1];
  const endSeconds = notes[end].endSeconds;
  const at = (seconds: number) => Math.round(seconds / FRAME_SECONDS);
  const { frames, first, pitched, vowelFrom, vowelTo, last } = syllable;
  const startFrame = at(note.startSeconds);
  const lead = Math.round((pitched - first) * note.consonantStretch);
  const murmur = Math.max(
    1,
    Math.round((vowelFrom - pitched) * (syllable.start === 'murmur' ? note.consonantStretch : 1)),
  );
  const endFrame = Math.max(startFrame + 4, at(endSeconds));
  const joined = next?.legato === true;
  // Nothing of the tail sounds into what begins next.
  const tail = joined ? 0 : Math.min(last - vowelTo, 14);
  const body = Math.max(1, endFrame - startFrame - murmur);
  const loudest = Math.max(...frames.map((frame) => frame.levelDb));
  const vowel = frames.slice(vowelFrom, vowelTo + 1);
  const vowelDb = vowel.reduce((sum, frame) => sum + frame.levelDb, 0) / vowel.length;
  const put = (frame: number, source: number, share: number, held: boolean) => {
    if (frame < 0 || frame >= places.length) return;
    const low = clamp(Math.floor(source), 0, frames.length - 1);
    const high = Math.min(frames.length - 1, low + 1);
    const part = clamp(source - low, 0, 1);
    const cepstrum = new Float32Array(ORDER);
    for (let n = 0; n < ORDER; n++)
      cepstrum[n] = frames[low].cepstrum[n] * (1 - part) + frames[high].cepstrum[n] * part;
    // Level differences between syllables are the singer's, not the speaker's, who also fades within a vowel; a held note is held.
    const spokenDb = frames[low].levelDb * (1 - part) + frames[high].levelDb * part;
    const evenedDb = held ? HELD_EVENLY * (vowelDb - spokenDb) : 0;
    cepstrum[0] += ((evenedDb - loudest) / 20) * Math.LN10;
    const owner = notes.slice(index, end + 1).findLast((each) => at(each.startSeconds) <= frame) ?? note;
    places[frame] = {
      cepstrum,
      voiced: frame < startFrame ? 0 : 1,
      gain: owner.loudness * share,
    };
  };
  for (let i = 0; i < lead; i++)
    put(startFrame - lead + i, first + ((pitched - first) * i) / Math.max(1, lead), 1, false);
  const rise = note.legato || syllable.start !== 'vowel' ? 1 : 6;
  for (let i = 0; i < murmur && startFrame + i < endFrame; i++)
    put(startFrame + i, pitched + ((vowelFrom - pitched) * i) / murmur, Math.min(1, (i + 1) / rise), false);
  // Up and down the steady part, so that its own movement stays.
  const steady = vowelTo - vowelFrom;
  for (let i = 0; i < body; i++) {
    const run = (i / Math.max(body, steady)) * steady * Math.max(1, Math.round(body / (4 * steady)));
    const turn = run % (2 * steady);
    const left = body - i;
    put(
      startFrame + murmur + i,
      vowelFrom + (turn <= steady ? turn : 2 * steady - turn),
      joined ? 1 : Math.min(1, (left + 2) / 8),
      true,
    );
  }
  for (let i = 0; i < tail; i++)
    put(endFrame + i, vowelTo + i, 0.25 * (1 - (i + 1) / (tail + 1)) ** 2, false);
}

/** Pulses whose spectrum is flat up to the highest harmonic, and noise as loud. */
function excitation(
  count: number,
  f0Hz: (seconds: number) => number,
  voice: SingingVoice,
  random: Random,
): [Float32Array, Float32Array] {
  const pulses = new Float32Array(count);
  const noise = new Float32Array(count);
  let phase = 0;
  let odd = false;
  let shake = 0;
  for (let i = 0; i < count; i++) {
    noise[i] = (random() + random() + random() - 1.5) * 2;
    const hz = f0Hz(i / RATE) * (1 + shake);
    phase += hz / RATE;
    if (phase >= 1) {
      phase -= 1;
      odd = !odd;
      shake = (random() - 0.5) * (0.006 + 0.05 * voice.growl);
    }
    const harmonics = Math.max(1, Math.floor(RATE / 2 / hz));
    const x = Math.PI * (phase < 0.5 ? phase : phase - 1);
    const order = 2 * harmonics + 1;
    const sine = Math.sin(x);
    const pulse = Math.abs(sine) < 1e-6 ? order : Math.sin(order * x) / sine;
    const weaker = odd ? 1 - 0.7 * voice.growl : 1;
    // Less power a pulse where there are more of them; no constant part.
    pulses[i] = ((pulse - 1) / order) * weaker * Math.sqrt(RATE / hz);
  }
  return [pulses, noise];
}

const input = transform.createComplex();
const excited = transform.createComplex();
const folded = transform.createComplex();
const filter = transform.createComplex();

/** Adds one frame of the excitation, filtered with the smallest phase that has this spectrum. */
function addFrame(
  out: Float32Array,
  pulses: Float32Array,
  noise: Float32Array,
  from: number,
  frame: Place,
  breath: number,
): void {
  input.fill(0);
  const noiseGain = frame.voiced > 0.5 ? breath : 0.7;
  for (let i = 0; i < WINDOW; i++) {
    const at = from - WINDOW / 2 + i;
    if (at < 0 || at >= pulses.length) continue;
    input[2 * i] = (pulses[at] * frame.voiced + noise[at] * noiseGain) * window[i];
  }
  transform.forward(excited, input);
  folded.fill(0);
  folded[0] = frame.cepstrum[0];
  for (let n = 1; n < ORDER; n++) folded[2 * n] = 2 * frame.cepstrum[n];
  transform.forward(filter, folded);
  for (let k = 0; k < SIZE; k++) {
    const size = Math.exp(filter[2 * k]) * frame.gain;
    const re = size * Math.cos(filter[2 * k + 1]);
    const im = size * Math.sin(filter[2 * k + 1]);
    const a = excited[2 * k];
    const b = excited[2 * k + 1];
    excited[2 * k] = a * re - b * im;
    excited[2 * k + 1] = a * im + b * re;
  }
  transform.inverse(input, excited);
  for (let i = 0; i < SIZE; i++) {
    const at = from - WINDOW / 2 + i;
    if (at >= 0 && at < out.length) out[at] += input[2 * i] / 2;
  }
}
