/* global AudioWorkletProcessor, currentFrame, registerProcessor -- the scope of an audio worklet */
const BLOCK_FRAMES = 1024;

/**
 * Audio worklet: hands what comes in to the page in blocks, each with the frame of the context at which it began. A message
 * asks for what is there of a block, and is answered when it was sent.
 */
class CaptureProcessor extends AudioWorkletProcessor {
  constructor() {
    super();
    this.frame = 0;
    this.filled = 0;
    this.channels = [];
    this.port.onmessage = () => {
      this.send();
      this.port.postMessage('flushed');
    };
  }

  process([input]) {
    const count = input?.length ?? 0;
    // Nothing comes in yet, or other channels than before.
    if (count !== this.channels.length) this.send();
    if (count === 0) return true;
    const frames = input[0].length;
    if (this.filled === 0) {
      this.frame = currentFrame;
      this.channels = input.map(() => new Float32Array(BLOCK_FRAMES));
    }
    input.forEach((samples, c) => this.channels[c].set(samples, this.filled));
    this.filled += frames;
    if (this.filled + frames > BLOCK_FRAMES) this.send();
    return true;
  }

  send() {
    if (this.filled > 0) {
      const channels = this.channels.map((channel) => channel.slice(0, this.filled));
      this.port.postMessage(
        { frame: this.frame, channels },
        channels.map(({ buffer }) => buffer),
      );
    }
    this.filled = 0;
    this.channels = [];
  }
}

registerProcessor('capture', CaptureProcessor);
