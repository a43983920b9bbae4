export {
  loadBank,
  loadBankFile,
  mono,
  renderMidi,
  renderPart,
  type Bend,
  type SampledNote,
  type SampledPart,
} from './sampler.ts';
export { CONTROL_SECONDS, normalise, sing, type SungNote, type Voice, type Vowel } from './singer.ts';
