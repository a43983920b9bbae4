export { AudioFormatError } from './audioErrors.ts';
export {
  decodeAudio,
  mixToMono,
  sniffFormat,
  type AudioBlock,
  type AudioFormat,
  type AudioSummary,
} from './decodeAudio.ts';
export { decodeWhole } from './decodeWhole.ts';
export { createWavHeaderReader, encodeWav, encodeWavFrames, wavHead } from './wav.ts';
export { BEND_RANGE_SEMITONES, MidiFormatError, readMidi, writeSongMidi, type MidiContents } from './midi.ts';
