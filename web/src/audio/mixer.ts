/**
 * Where sounds come together: a strip for each part, with its level and its place between left and right, and all of them
 * into one. Built for any context: what is listened to and what is saved as a file pass through the same.
 */

interface Strip {
  gain: GainNode;
  pan: StereoPannerNode;
}

/** A level that is moved while it sounds follows over this time, which does not click. */
const GLIDE_SECONDS = 0.01;

export class Mixer {
  private readonly strips = new Map<string, Strip>();
  private readonly whole: GainNode;

  constructor(private readonly context: BaseAudioContext) {
    this.whole = context.createGain();
    this.whole.connect(context.destination);
  }

  /** Where the sound of a part goes in; it has its level and place from the first moment on. */
  strip(key: string, gainDb: number, pan: number): AudioNode {
    const { context } = this;
    const gain = 10 ** (gainDb / 20);
    let strip = this.strips.get(key);
    if (strip) {
      strip.gain.gain.setTargetAtTime(gain, context.currentTime, GLIDE_SECONDS);
      strip.pan.pan.setTargetAtTime(pan, context.currentTime, GLIDE_SECONDS);
    } else {
      strip = { gain: context.createGain(), pan: context.createStereoPanner() };
      strip.gain.gain.value = gain;
      strip.pan.pan.value = pan;
      strip.gain.connect(strip.pan).connect(this.whole);
      this.strips.set(key, strip);
    }
    return strip.gain;
  }

  /** Silences the strips that are not among these. */
  keep(wanted: ReadonlySet<string>): void {
    for (const [key, { gain }] of this.strips)
      if (!wanted.has(key)) gain.gain.setTargetAtTime(0, this.context.currentTime, GLIDE_SECONDS);
  }

  /** Where what belongs to no part goes in, such as the metronome. */
  get input(): AudioNode {
    return this.whole;
  }
}
