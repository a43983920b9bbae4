import type { Key } from '@plundra/core/theory';

/** Inputs of major keys first, then those of minor keys; the others are none. */
export function inTwoModes({ mode }: Key, inputs: readonly number[]): number[] {
  const none = inputs.map(() => 0);
  return mode === 'major' ? [...inputs, ...none] : [...none, ...inputs];
}
