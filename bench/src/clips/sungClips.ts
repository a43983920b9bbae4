/**
 * Clips of spoken voices made to sing. What a note is, and where it starts, is as docs/accuracy.md says: a slurred note where the
 * pitch passes half way, a note after a murmur (m, n, l, r, v) where the murmur takes on its pitch, any other where its pitch is heard.
 */
import { createRandom, gaussian, type Random } from '@plundra/core/signal';
import { midiToHz } from '@plundra/core/theory';
import { TRUTH_HOP_SECONDS, type Clip } from './clip.ts';
import { ROUGHNESSES, roughen, type Roughness } from './degrade.ts';
import { addKnocks } from './knocks.ts';
import { composeMelody } from './melody.ts';
import { SPOKEN_VOICES, speakSyllables, SYLLABLE_RATE_HZ, type SpokenVoice } from './spokenSyllables.ts';
import {
  analyseSyllable,
  singSyllables,
  withMurmur,
  type Syllable,
  type SyllableNote,
} from './syllableSinger.ts';

const DURATION_SECONDS = 14;
/** Share of the time since the note before began that a consonant may take. */
const LONGEST_LEAD = 0.45;
/** Pitch is laid down this finely. */
const CONTROL_SECONDS = 0.002;

export interface SungPlan {
  name: string;
  voice: SpokenVoice;
  lowMidi: number;
  highMidi: number;
  /** Above 1: a shorter vocal tract than the speaker's. */
  tract: number;
  vibratoCents: number;
  legato: number;
  shortestBeats: number;
  roughness: Roughness | undefined;
  /** How far murmurs are from their vowels, 1 as spoken. */
  murmurDepth?: number;
}

interface ComposedNote extends SyllableNote {
  midi: number;
  /** Where the pitch passes from the note before to this one. */
  crossSeconds: number;
  slideSeconds: number;
  scoopCents: number;
  vibratoCents: number;
  vibratoHz: number;
  vibratoDelaySeconds: number;
}

const analysed = new Map<string, Syllable[]>();

function syllablesOf(voice: SpokenVoice, tract: number): Syllable[] {
  const rounded = Math.round(tract * 10) / 10;
  const key = `${voice.name}/${rounded}`;
  let found = analysed.get(key);
  if (!found) {
    found = speakSyllables(voice).flatMap((spoken) => analyseSyllable(spoken, rounded) ?? []);
    if (analysed.size > 60) analysed.clear();
    analysed.set(key, found);
  }
  return found;
}

export function sungClip(plan: SungPlan, seed: number): Clip {
  const random = createRandom(seed);
  const spoken = syllablesOf(plan.voice, plan.tract);
  const depth = plan.murmurDepth ?? 1;
  const syllables = depth === 1 ? spoken : spoken.map((syllable) => withMurmur(syllable, depth));
  const notes = compose(plan, syllables, random);
  const pitch = pitchLine(notes, random);
  const f0 = (seconds: number) =>
    midiToHz(pitch[Math.min(pitch.length - 1, Math.max(0, Math.round(seconds / CONTROL_SECONDS)))]);
  const breath = 0.02 + 0.15 * random() ** 2;
  const growl = plan.roughness === 'growl' ? 0.3 + 0.5 * random() : 0;
  const sung = singSyllables(notes, f0, { breath, growl }, DURATION_SECONDS, random);
  const samples = roughen(sung.samples, SYLLABLE_RATE_HZ, plan.roughness, random);
  const f0Hz = new Float32Array(Math.ceil(DURATION_SECONDS / TRUTH_HOP_SECONDS));
  for (let i = 0; i < f0Hz.length; i++) {
    const seconds = i * TRUTH_HOP_SECONDS;
    if (sung.pitched[Math.round(seconds / sung.frameSeconds)]) f0Hz[i] = f0(seconds);
  }
  return {
    name: plan.name,
    group: 'singing',
    kind: 'voice',
    sampleRateHz: SYLLABLE_RATE_HZ,
    samples,
    notes: notes.map(({ crossSeconds, endSeconds, midi }, i) => ({
      startSeconds: crossSeconds,
      endSeconds: notes[i + 1]?.legato ? Math.min(endSeconds, notes[i + 1].crossSeconds) : endSeconds,
      midi,
    })),
    f0Hz,
  };
}

function compose(plan: SungPlan, syllables: readonly Syllable[], random: Random): ComposedNote[] {
  const pick = <T>(items: readonly T[]): T => items[Math.floor(random() * items.length)];
  const { lowMidi, highMidi, legato, shortestBeats } = plan;
  const melody = composeMelody(
    { lowMidi, highMidi, legato, shortestBeats, durationSeconds: DURATION_SECONDS, timingSeconds: 0.02 },
    random,
  );
  const detuneCents = (random() * 2 - 1) * 30;
  const murmurs = syllables.filter(({ start }) => start === 'murmur');
  const notes: ComposedNote[] = [];
  melody.forEach((composed, i) => {
    const previous = notes[i - 1];
    // La la la: a repeated note may be joined, too, by what it begins with.
    const repeats =
      previous !== undefined &&
      murmurs.length > 0 &&
      melody[i - 1].midi === composed.midi &&
      composed.startSeconds - previous.endSeconds < 0.15 &&
      random() < 0.6;
    if (repeats) previous.endSeconds = composed.startSeconds;
    const note = { ...composed, legato: composed.legato || repeats };
    const goesOn = composed.legato && random() < 0.35;
    const joining = repeats || (murmurs.length > 0 && composed.legato && random() < 0.4);
    const syllable = goesOn ? undefined : pick(joining ? murmurs : syllables);
    const length = note.endSeconds - note.startSeconds;
    const room = Math.min(
      length,
      previous && note.legato ? note.startSeconds - previous.startSeconds : length,
    );
    const murmured = note.legato && syllable?.start === 'murmur';
    let consonantStretch = Math.min(0.7 + 0.9 * random(), length < 0.25 ? 0.7 : 2);
    if (syllable?.start === 'unvoiced' && previous) {
      // Who speaks slowly sings consonants faster: the note before keeps most of its time.
      const spokenLead = ((syllable.pitched - syllable.first) * 128) / SYLLABLE_RATE_HZ;
      const longest = LONGEST_LEAD * (note.startSeconds - previous.startSeconds);
      consonantStretch = Math.min(consonantStretch, longest / Math.max(spokenLead, 1e-3));
      const lead = spokenLead * consonantStretch;
      previous.endSeconds = Math.max(
        previous.startSeconds + 0.06,
        Math.min(previous.endSeconds, note.startSeconds - lead),
      );
    }
    notes.push({
      startSeconds: note.startSeconds,
      endSeconds: note.endSeconds,
      loudness: note.loudness,
      legato: note.legato && syllable?.start !== 'unvoiced',
      syllable,
      consonantStretch,
      midi: note.midi + (detuneCents + (random() * 2 - 1) * 25) / 100,
      crossSeconds: note.startSeconds + (murmured && !repeats ? 0.04 * random() : 0),
      slideSeconds: Math.min(0.04 + 0.21 * random() ** 1.5, 0.7 * room),
      scoopCents: random() < 0.35 ? 50 + 150 * random() : 0,
      vibratoCents: random() < 0.7 ? Math.min(120, plan.vibratoCents * (0.5 + random())) : 0,
      vibratoHz: 4 + 3.5 * random(),
      vibratoDelaySeconds: 0.1 + 0.35 * random(),
    });
  });
  return notes;
}

/** Fractional MIDI every {@link CONTROL_SECONDS}, also between notes. */
function pitchLine(notes: readonly ComposedNote[], random: Random): Float32Array {
  const line = new Float32Array(Math.ceil(DURATION_SECONDS / CONTROL_SECONDS));
  const driftCents = 4 + 14 * random();
  let slow = 0;
  let slower = 0;
  let index = 0;
  for (let i = 0; i < line.length; i++) {
    const seconds = i * CONTROL_SECONDS;
    while (index + 1 < notes.length && seconds >= takesOver(notes, index + 1)) index++;
    const note = notes[index];
    // A walk held back, smoothed twice: about one to three swings a second.
    slow += -0.012 * slow + 0.155 * gaussian(random);
    slower += 0.05 * (slow - slower);
    let midi = note.midi + (driftCents / 100) * slower * 0.9;
    const at = seconds - note.startSeconds;
    const depth = Math.min(1, Math.max(0, (at - note.vibratoDelaySeconds) / 0.25)) * note.vibratoCents;
    midi += (depth / 100) * Math.sin(2 * Math.PI * note.vibratoHz * at);
    if (!note.legato) midi -= (note.scoopCents / 100) * Math.exp(-Math.max(0, at) / 0.06);
    // Both sides of a slide follow one curve through its middle.
    const near = note.legato && seconds - note.crossSeconds < note.slideSeconds ? note : notes[index + 1];
    if (near?.legato) {
      const from = notes[notes.indexOf(near) - 1].midi;
      const place = (seconds - near.crossSeconds) / near.slideSeconds;
      if (Math.abs(place) < 1) {
        const share = 1 / (1 + Math.exp(-place * 6));
        midi += near === note ? (from - near.midi) * (1 - share) : (near.midi - from) * share;
      }
    }
    line[i] = midi;
  }
  return line;
}

/** When the pitch becomes that of a note: joined ones cross, others begin where the note before has ended, or shortly before their start. */
function takesOver(notes: readonly ComposedNote[], at: number): number {
  const note = notes[at];
  return note.legato
    ? note.crossSeconds
    : Math.max(notes[at - 1].endSeconds + 0.03, note.startSeconds - 0.15);
}

/** A singer of a voice with everything else by chance; the same for the same seed. */
export function chanceSinger(voice: SpokenVoice, seed: number, roughness: Roughness | undefined): SungPlan {
  const random = createRandom(seed * 7 + 3);
  const tract = 0.86 + 0.34 * random();
  const lowMidi = Math.round(41 + 16 * random() + 22 * Math.max(0, tract - 0.93));
  return {
    name: roughness ? `${voice.name}, ${roughness}` : voice.name,
    voice,
    lowMidi,
    highMidi: lowMidi + 14 + Math.round(6 * random()),
    tract,
    vibratoCents: random() < 0.15 ? 120 : 70 * random(),
    legato: 0.3 + 0.5 * random(),
    shortestBeats: roughness === 'fast' || random() < 0.15 ? 0.25 : 0.5,
    roughness,
  };
}

/** {@link chanceSinger} with an articulation of its own: what is learned from should vary more than what is measured on. */
export function variedSinger(voice: SpokenVoice, seed: number, roughness: Roughness | undefined): SungPlan {
  return { ...chanceSinger(voice, seed, roughness), murmurDepth: 0.45 + 0.9 * createRandom(seed * 11 + 5)() };
}

/** So many plain clips of each voice: two hundred notes say how many of ten have to be put right. */
const PLAIN_CLIPS = 6;
/** Seeds of rough clips begin here. */
const ROUGH_SEEDS = 100;

/** Voices that the reader was neither trained on nor chosen with: plain ones, one of each roughness, one with knocks. */
export function* leftOutVoices(): Generator<Clip> {
  for (const [v, voice] of SPOKEN_VOICES.leftOut.entries()) {
    const sing = (number: number, roughness?: Roughness) => {
      const seed = 900_000 + 1000 * v + number;
      return sungClip(chanceSinger(voice, seed, roughness), seed);
    };
    for (let i = 0; i < PLAIN_CLIPS; i++) yield { ...sing(i), name: voice.name, group: 'left-out voices' };
    for (const [i, roughness] of ROUGHNESSES.entries())
      yield { ...sing(ROUGH_SEEDS + i, roughness), name: roughness, group: 'rough singing' };
    const knocked = sing(ROUGH_SEEDS + ROUGHNESSES.length);
    addKnocks(knocked.samples, knocked.sampleRateHz, createRandom(v));
    yield { ...knocked, name: 'knocks and clicks', group: 'rough singing' };
  }
}
