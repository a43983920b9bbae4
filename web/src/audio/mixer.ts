/**
 * Where sounds come together: a strip for each part, with its level and its place between left and right; those of a group
 * into its bus, and all of them into one. Built for any context: what is listened to and what is saved as a file pass through the same.
 */

import type { Bus, Track } from './playlist.ts';

interface Strip {
  gain: GainNode;
  pan: StereoPannerNode;
  /** What it goes into: the bus of a group, or the whole. */
  into: AudioNode;
}

/** A level that is moved while it sounds follows over this time, which does not click. */
const GLIDE_SECONDS = 0.01;

export class Mixer {
  private readonly strips = new Map<string, Strip>();
  private readonly buses = new Map<string, GainNode>();
  private readonly whole: GainNode;

  constructor(private readonly context: BaseAudioContext) {
    this.whole = context.createGain();
    this.whole.connect(context.destination);
  }

  /** Where the sound of a part goes in; it has its level and place from the first moment on. */
  strip({ strip: key, gainDb, pan, bus }: Pick<Track, 'strip' | 'gainDb' | 'pan' | 'bus'>): AudioNode {
    const { context } = this;
    const gain = 10 ** (gainDb / 20);
    const into = bus ? this.bus(bus) : this.whole;
    let strip = this.strips.get(key);
    if (strip) {
      if (strip.into !== into) {
        strip.pan.disconnect();
        strip.pan.connect(into);
        strip.into = into;
      }
      strip.gain.gain.setTargetAtTime(gain, context.currentTime, GLIDE_SECONDS);
      strip.pan.pan.setTargetAtTime(pan, context.currentTime, GLIDE_SECONDS);
    } else {
      strip = { gain: context.createGain(), pan: context.createStereoPanner(), into };
      strip.gain.gain.value = gain;
      strip.pan.pan.value = pan;
      strip.gain.connect(strip.pan).connect(into);
      this.strips.set(key, strip);
    }
    return strip.gain;
  }

  private bus({ key, gainDb }: Bus): GainNode {
    const gain = 10 ** (gainDb / 20);
    let bus = this.buses.get(key);
    if (bus) bus.gain.setTargetAtTime(gain, this.context.currentTime, GLIDE_SECONDS);
    else {
      bus = this.context.createGain();
      bus.gain.value = gain;
      bus.connect(this.whole);
      this.buses.set(key, bus);
    }
    return bus;
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
