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
export { createWavHeaderReader, encodeWav, encodeWavFrames, wavHead, type WavSamples } from './wav.ts';
export { BEND_RANGE_SEMITONES } from './midiControllers.ts';
export {
  isMidiName,
  MidiFormatError,
  readMidi,
  withoutMidiEnding,
  type MidiContents,
  type MidiRoom,
} from './midiIn.ts';
export { isScoreName } from './scoreName.ts';
export { createMidiFitting, type MidiFitting } from './midiFitting.ts';
export { writeSongMidi } from './midiOut.ts';
