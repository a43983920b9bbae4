/* global AudioWorkletProcessor, currentFrame, currentTime, registerProcessor, sampleRate -- the scope of an audio worklet */
/** As much as this ahead of what sounds is asked for, in pieces that grow to the longest. */
const AHEAD_SECONDS = 1.5;
const SHORTEST_SECONDS = 0.1;
const LONGEST_SECONDS = 0.4;
/** It comes in after a gap, or for another, when so much of it is there: what follows is there by then, too. */
const READY_SECONDS = 0.08;
/** Where the sound comes in, or goes, in its middle it fades for so long. */
const FADE_SECONDS = 0.008;

/**
 * Audio worklet: plays a sound that is made while it plays. It asks whoever makes it for what comes next and is given it
 * directly, so that nothing the page does holds it up. What comes late is heard from where the sound would be by then.
 *
 * `source` answers `{fromSample, toSample}` with `{fromSample, channels}`, or with `{message}` where it cannot.
 * `replaces` is told when this sound is there, as the page is; the processor at its other end, which has it as `replacedBy`,
 * then ends.
 * `fedUntilFrame` is answered when all until then is there.
 */
class StreamProcessor extends AudioWorkletProcessor {
  constructor({ processorOptions: { startFrame, fromSample, askedSample, endSample } }) {
    super();
    this.startFrame = startFrame;
    this.fromSample = fromSample;
    this.endSample = endSample;
    /** What has been asked for reaches so far, what has come so far. */
    this.askedSample = askedSample;
    this.comeSample = fromSample;
    this.pieces = [];
    this.waiting = [];
    this.covered = new Uint8Array(0);
    this.here = false;
    /** Whether it is heard where it should be. */
    this.sounding = false;
    this.level = 1;
    this.leaving = false;
    this.endFrame = Infinity;
    this.port.onmessage = ({ data }) => this.hear(data);
  }

  hear({ source, replaces, replacedBy, endFrame, fedUntilFrame }) {
    if (source) {
      this.source = source;
      source.onmessage = ({ data }) => this.take(data);
    }
    if (replaces) this.replaces = replaces;
    if (replacedBy) replacedBy.onmessage = () => (this.leaving = true);
    if (endFrame !== undefined) this.endFrame = endFrame;
    if (fedUntilFrame !== undefined) {
      this.waiting.push(fedUntilFrame);
      this.answer();
    }
  }

  take({ fromSample, channels, message }) {
    if (message !== undefined) return this.port.postMessage({ message });
    this.pieces.push({ fromSample, toSample: fromSample + channels[0].length, channels });
    this.comeSample = fromSample + channels[0].length;
    this.ask();
    this.answer();
  }

  /** One piece at a time, so that others that sound get their turn. */
  ask() {
    if (this.comeSample < this.askedSample || this.askedSample >= this.endSample) return;
    if (this.askedSample > this.sampleAt(currentFrame) + AHEAD_SECONDS * sampleRate) return;
    const last = this.pieces[this.pieces.length - 1];
    const lastLength = last ? last.toSample - last.fromSample : 0;
    const size = Math.min(
      LONGEST_SECONDS * sampleRate,
      Math.max(2 * lastLength, SHORTEST_SECONDS * sampleRate),
    );
    // What could only be heard too late is not made any more.
    const fromSample = Math.min(Math.max(this.askedSample, this.sampleAt(currentFrame)), this.endSample - 1);
    const toSample = Math.min(this.endSample, Math.round(fromSample + size));
    this.askedSample = toSample;
    this.source.postMessage({ fromSample, toSample });
  }

  answer() {
    this.waiting = this.waiting.filter((frame) => {
      const there = this.comeSample >= Math.min(this.endSample, this.sampleAt(frame));
      if (there) this.port.postMessage({ fedUntilFrame: frame });
      return !there;
    });
  }

  sampleAt(frame) {
    return this.fromSample + frame - this.startFrame;
  }

  process(_inputs, [output]) {
    const frames = output[0].length;
    const first = this.sampleAt(currentFrame);
    if (this.covered.length !== frames) this.covered = new Uint8Array(frames);
    this.covered.fill(0);
    while (this.pieces.length > 0 && this.pieces[0].toSample <= first) this.pieces.shift();
    for (const { fromSample, toSample, channels } of this.pieces) {
      const from = Math.max(first, fromSample);
      const to = Math.min(first + frames, toSample);
      if (from >= to) break;
      this.covered.fill(1, from - first, to - first);
      output.forEach((out, c) =>
        out.set(channels[c].subarray(from - fromSample, to - fromSample), from - first),
      );
    }
    this.shape(output, first, frames);
    if (this.source) this.ask();
    const over = first + frames >= this.endSample || currentFrame + frames >= this.endFrame;
    const gone = this.leaving && this.level === 0;
    if (over || gone) this.source?.postMessage('over');
    return !over && !gone;
  }

  /** Fades in where a gap ends, and out when another goes on. */
  shape(output, first, frames) {
    const step = 1 / (FADE_SECONDS * sampleRate);
    const enough = Math.min(this.endSample, first + READY_SECONDS * sampleRate);
    for (let i = 0; i < frames; i++) {
      const sample = first + i;
      if (sample < this.fromSample || sample >= this.endSample) continue;
      if (this.covered[i] === 0) this.sounding = false;
      else if (!this.sounding && this.comeSample >= enough) this.begin();
      if (!this.sounding) this.level = 0;
      else if (this.leaving) this.level = Math.max(0, this.level - step);
      else if (this.level < 1) this.level = Math.min(1, this.level + step);
      if (this.level < 1) for (const out of output) out[i] *= this.level;
    }
  }

  begin() {
    this.sounding = true;
    if (this.here) return;
    this.here = true;
    this.replaces?.postMessage('here');
    this.port.postMessage({ hereSeconds: currentTime });
  }
}

registerProcessor('stream', StreamProcessor);
