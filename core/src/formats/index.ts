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
export { BEND_RANGE_SEMITONES } from './midiControllers.ts';
export { isMidiName, MidiFormatError, readMidi, withoutMidiEnding, type MidiContents } from './midiIn.ts';
export { writeSongMidi } from './midiOut.ts';
