/* global currentTime, registerProcessor -- the scope of an audio worklet */
/**
 * Audio worklet: loaded before the sampler's, whose processor it extends in two ways. The sampler counts its own time from
 * the moment it is built, which takes 0.15 s and more, so its notes came that much late: here its clock is the context's.
 * "Stop all" also drops the notes that are planned and have not begun, and "told" is answered when all before it was heard.
 */
const register = registerProcessor;
const SAMPLER = 'spessasynth-worklet-processor';

function onContextTime(Processor) {
  return class extends Processor {
    constructor(options) {
      super(options);
      this.port.addEventListener('message', ({ data }) => {
        if (data.type === 'told') this.port.postMessage(data);
        if (data.type === 'stopAll') this.core.synthesizer.synthCore.eventQueue.length = 0;
      });
    }

    process(inputs, outputs) {
      this.core.synthesizer.synthCore.currentTime = currentTime;
      return super.process(inputs, outputs);
    }
  };
}

globalThis.registerProcessor = (name, Processor) =>
  register(name, name === SAMPLER ? onContextTime(Processor) : Processor);
