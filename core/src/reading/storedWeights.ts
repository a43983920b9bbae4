/**
 * Weights as the programs in training/ store them: whole numbers in base64, times their scale.
 * @param bits of each number, the lower byte first
 */
export function storedWeights(
  { weights, scale }: { weights: string; scale: number },
  bits: 8 | 16 = 16,
): Float32Array {
  const bytes = Uint8Array.from(atob(weights), (char) => char.charCodeAt(0));
  const view = new DataView(bytes.buffer);
  const size = bits / 8;
  return Float32Array.from(
    { length: bytes.length / size },
    (_, i) => (bits === 8 ? view.getInt8(i) : view.getInt16(size * i, true)) * scale,
  );
}
