/**
 * Spoken syllables of many voices, from speech synthesisers of Debian's packages (flite, festival, espeak-ng): people recorded
 * in diphones or modelled, and one synthesiser of formants. They are material for `syllableSinger.ts`, which makes them sing.
 * Nothing of them ships; a voice whose package is missing is named in the error.
 */
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { resample } from '@plundra/core/signal';

export const SYLLABLE_RATE_HZ = 22050;

/** How a syllable begins: with the vowel, a voiced sound that can carry a pitch, or a sound that cannot. */
export type SyllableStart = 'vowel' | 'murmur' | 'unvoiced';

export interface SpokenSyllable {
  text: string;
  start: SyllableStart;
  /** Mono at {@link SYLLABLE_RATE_HZ}. */
  samples: Float32Array;
}

export interface SpokenVoice {
  name: string;
  program: 'flite' | 'festival' | 'espeak-ng';
  /** Name of the voice in its program. */
  voice: string;
  /** Spelling: English words, or syllables read letter by letter, in Latin or Cyrillic letters. */
  spelling: 'english' | 'letters' | 'cyrillic';
}

const voice = (
  name: string,
  program: SpokenVoice['program'],
  id: string,
  spelling: SpokenVoice['spelling'] = 'english',
): SpokenVoice => ({ name, program, voice: id, spelling });

/**
 * Voices by the part they play: `training` is learned from, `choosing` is looked at, `leftOut` neither. Those that are learned from
 * have licences in the manner of BSD, so that what is learned may ship; the others are under the GPL and used here only.
 */
export const SPOKEN_VOICES = {
  training: [
    voice('flite slt', 'flite', 'slt'),
    voice('flite rms', 'flite', 'rms'),
    voice('flite awb', 'flite', 'awb'),
    voice('festival ked', 'festival', 'ked_diphone'),
    voice('flite kal', 'flite', 'kal16'),
    voice('festival nsh', 'festival', 'msu_ru_nsh_clunits', 'cyrillic'),
  ],
  choosing: [
    voice('festival lj', 'festival', 'suo_fi_lj_diphone', 'letters'),
    voice('festival mv', 'festival', 'hy_fi_mv_diphone', 'letters'),
  ],
  leftOut: [
    voice('festival dita, a woman', 'festival', 'czech_dita', 'letters'),
    voice('festival krb, a child', 'festival', 'czech_krb', 'letters'),
    voice('festival ph, a man', 'festival', 'czech_ph', 'letters'),
    voice('espeak-ng', 'espeak-ng', 'en'),
  ],
} satisfies Record<string, SpokenVoice[]>;

const MURMURS = ['m', 'n', 'l', 'r', 'v', 'w', 'y', 'z'];

const ENGLISH: Record<string, string> = Object.fromEntries(
  'ah oh ooh ee may me moo mow mah knee no new nah lay lee low la lou ray row rue way we woe you yo vee zoo the they see so sue say she show shoe tea toe two tay key go goo day do doe bee bow boo bay fee foe he who hay ha pay pie play blue slow snow free star'
    .split(' ')
    .map((word) => [word, word]),
);
/** What an English word begins with where its spelling does not say so. */
const BEGINS: Record<string, SyllableStart> = {
  knee: 'murmur',
  who: 'unvoiced',
  oh: 'vowel',
  ooh: 'vowel',
  ah: 'vowel',
  ee: 'vowel',
};

const LETTERS = ['', 'm', 'n', 'l', 'r', 'v', 'm', 'n', 'l', 's', 't', 'k', 'p', 'd', 'b', 'h', 'f'].flatMap(
  (consonant) => ['a', 'e', 'i', 'o', 'u'].map((vowel) => consonant + vowel),
);

const CYRILLIC: Record<string, string> = Object.fromEntries(
  [...'aeioumnlrvstkpdbhf'].map((letter, i) => [letter, [...'аэиоумнлрвсткпдбхф'][i]]),
);

function startOf(text: string): SyllableStart {
  if (BEGINS[text]) return BEGINS[text];
  if (/^[aeiou]/.test(text)) return 'vowel';
  return MURMURS.includes(text[0]) || text.startsWith('th') ? 'murmur' : 'unvoiced';
}

/** All syllables of a voice; rendered once and kept in the system's folder for temporary files. */
export function speakSyllables(spoken: SpokenVoice): SpokenSyllable[] {
  const texts = spoken.spelling === 'english' ? Object.keys(ENGLISH) : [...new Set(LETTERS)];
  const folder = join(tmpdir(), 'plundra-syllables', `${spoken.program}-${spoken.voice}`);
  mkdirSync(folder, { recursive: true });
  const fileOf = (text: string) => join(folder, `${text}.wav`);
  const missing = texts.filter((text) => !existsSync(fileOf(text)));
  try {
    if (missing.length > 0) render(spoken, missing, fileOf);
  } catch (cause) {
    throw new Error(
      `The voice ${spoken.name} could not be rendered: install Debian's packages flite, festival, espeak-ng and its festvox voice.`,
      { cause },
    );
  }
  return texts.map((text) => ({ text, start: startOf(text), samples: readWav(fileOf(text)) }));
}

function render(spoken: SpokenVoice, texts: string[], fileOf: (text: string) => string): void {
  if (spoken.program === 'festival') {
    const written = (text: string) =>
      spoken.spelling === 'cyrillic' ? [...text].map((letter) => CYRILLIC[letter]).join('') : text;
    const lines = texts.map(
      (text) => `(utt.save.wave (SynthText "${written(text)}") "${fileOf(text)}" 'riff)`,
    );
    const script = join(tmpdir(), `plundra-${spoken.voice}.scm`);
    writeFileSync(script, `(voice_${spoken.voice})\n${lines.join('\n')}\n`);
    execFileSync('festival', ['--batch', script], { stdio: 'ignore' });
    return;
  }
  for (const text of texts)
    if (spoken.program === 'flite')
      execFileSync('flite', ['-voice', spoken.voice, '-t', text, '-o', fileOf(text)]);
    else execFileSync('espeak-ng', ['-v', spoken.voice, '-s', '130', '-w', fileOf(text), text]);
}

/** 16-bit mono files as these programs write them. */
function readWav(path: string): Float32Array {
  const bytes = readFileSync(path);
  const rateHz = bytes.readUInt32LE(24);
  let at = 12;
  while (bytes.toString('latin1', at, at + 4) !== 'data') at += 8 + bytes.readUInt32LE(at + 4);
  const length = Math.min(bytes.readUInt32LE(at + 4), bytes.length - at - 8);
  const samples = new Float32Array(length >> 1);
  for (let i = 0; i < samples.length; i++) samples[i] = bytes.readInt16LE(at + 8 + 2 * i) / 32768;
  return resample(samples, rateHz, SYLLABLE_RATE_HZ);
}
