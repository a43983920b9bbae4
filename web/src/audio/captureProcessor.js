/* global AudioWorkletProcessor, currentTime, registerProcessor -- the scope of an audio worklet */
/** Audio worklet: hands every block of the first input channel to the page, with the context time of its start. */
class CaptureProcessor extends AudioWorkletProcessor {
  process(inputs) {
    const channel = inputs[0]?.[0];
    if (channel) this.port.postMessage({ timeSeconds: currentTime, samples: channel.slice() });
    return true;
  }
}

registerProcessor('capture', CaptureProcessor);
