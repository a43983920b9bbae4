/** Any stretch of a corrected recording, from pieces that are rendered when they are first needed. */
import type { CorrectionPiece } from './pieces.ts';

/** Pieces that stay rendered: what plays now, and what comes next. */
const KEPT_PIECES = 3;

/**
 * Gives the channels of the output between two of its samples. Rejects where `read` does; what failed is asked for again.
 *
 * @param pieces in order and without gaps, as `planPieces` gives them
 * @param read channels of the recording from one of its samples to another
 */
export function createPieceReader(
  pieces: readonly CorrectionPiece[],
  read: (fromSample: number, toSample: number) => Promise<Float32Array[]>,
): (fromSample: number, toSample: number) => Promise<Float32Array[]> {
  const rendered = new Map<CorrectionPiece, Promise<Float32Array[]>>();

  const renderedOf = (piece: CorrectionPiece): Promise<Float32Array[]> => {
    const made =
      rendered.get(piece) ??
      read(piece.needFrom, piece.needTo).then(
        (channels) => piece.render(channels),
        (error: unknown) => {
          rendered.delete(piece);
          throw error;
        },
      );
    rendered.delete(piece);
    rendered.set(piece, made);
    if (rendered.size > KEPT_PIECES) rendered.delete(rendered.keys().next().value!);
    return made;
  };

  return async (fromSample, toSample) => {
    let out: Float32Array[] | undefined;
    for (const piece of pieces) {
      if (piece.to <= fromSample || piece.from >= toSample) continue;
      const channels = await renderedOf(piece);
      out ??= channels.map(() => new Float32Array(toSample - fromSample));
      const first = Math.max(piece.from, fromSample);
      const last = Math.min(piece.to, toSample);
      channels.forEach((channel, c) =>
        out![c].set(channel.subarray(first - piece.from, last - piece.from), first - fromSample),
      );
    }
    return out ?? [new Float32Array(toSample - fromSample)];
  };
}
