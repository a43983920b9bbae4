/** Passages at a speed of their own: what sounds next is made first, in pieces that grow while they are ahead of their time. */
import type { Correction } from './corrections.ts';
import type { PiecedSound, SoundPiece } from './playInPieces.ts';

/** The first piece is heard as soon as it is made: short enough for that to be at once. */
const FIRST_SECONDS = 0.2;
/** What is made ahead is made in vain where the next edit changes it, and holds up what sounds then. */
const LONGEST_SECONDS = 1;
const AHEAD_SECONDS = 3;
/** Pieces that are kept: what plays, what comes next, and what a loop goes back to. */
const KEPT_PIECES = 48;
/** A piece of which less than this is left is not begun with. */
const LEAST_SECONDS = 0.1;

interface Kept {
  made: NonNullable<Correction['made']>;
  fromSample: number;
  toSample: number;
  piece: Promise<SoundPiece>;
}

export type MadePieces = (made: NonNullable<Correction['made']>) => PiecedSound;

/** Pieces of whatever is made of one recording. */
export function createMadePieces(context: BaseAudioContext): MadePieces {
  const kept = new Set<Kept>();

  const keep = (piece: Kept) => {
    kept.delete(piece);
    kept.add(piece);
    if (kept.size > KEPT_PIECES) kept.delete(kept.values().next().value!);
    return piece.piece;
  };

  return (made) => {
    const { sampleRateHz, lengthSamples } = made;
    const make = async (fromSample: number, toSample: number): Promise<SoundPiece> => {
      const channels = await made.stretch(fromSample, toSample);
      const buffer = context.createBuffer(channels.length, channels[0].length, sampleRateHz);
      channels.forEach((channel, c) => buffer.getChannelData(c).set(channel));
      return { buffer, fromSeconds: fromSample / sampleRateHz, toSeconds: toSample / sampleRateHz };
    };
    return {
      durationSeconds: lengthSamples / sampleRateHz,
      aheadSeconds: AHEAD_SECONDS,
      pieceAt(_track, seconds, before) {
        const sample = Math.min(Math.round(seconds * sampleRateHz), lengthSamples - 1);
        const enough = Math.min(sample + LEAST_SECONDS * sampleRateHz, lengthSamples);
        for (const each of kept)
          if (each.made === made && each.fromSample <= sample && each.toSample >= enough) return keep(each);
        const lastSeconds = before ? before.toSeconds - before.fromSeconds : 0;
        const size = Math.max(FIRST_SECONDS, Math.min(LONGEST_SECONDS, 2 * lastSeconds));
        const toSample = Math.min(lengthSamples, sample + Math.round(size * sampleRateHz));
        const piece = { made, fromSample: sample, toSample, piece: make(sample, toSample) };
        piece.piece.catch(() => kept.delete(piece));
        return keep(piece);
      },
    };
  };
}
