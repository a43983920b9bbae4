/** Samples of which there will be many, or only a few: room that grows as it is needed. */
export interface Growing {
  /** With so many samples, or more, but never more than the most; what was in it before stays, the rest is 0. */
  upTo(samples: number): Float32Array;
  /** How many there are now. */
  length(): number;
}

export function createGrowing(most: number): Growing {
  let room = new Float32Array(0);
  return {
    upTo(samples) {
      if (samples > room.length && room.length < most) {
        const before = room;
        room = new Float32Array(Math.min(most, Math.max(samples, 2 * before.length)));
        room.set(before);
      }
      return room;
    },
    length: () => room.length,
  };
}
