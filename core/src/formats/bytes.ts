/** Byte arrays put together. */
export function joinBytes(a: Uint8Array, b: Uint8Array): Uint8Array {
  return a.length === 0 ? b : joinAll([a, b]);
}

export function joinAll(pieces: readonly Uint8Array[]): Uint8Array {
  const joined = new Uint8Array(pieces.reduce((sum, piece) => sum + piece.length, 0));
  let at = 0;
  for (const piece of pieces) {
    joined.set(piece, at);
    at += piece.length;
  }
  return joined;
}
