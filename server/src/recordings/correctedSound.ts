/**
 * The recording of a passage as it sounds with its corrections, as a WAV file of 32-bit floats: what was not touched stays
 * exact. The recording is decoded once, forwards, and no more of it is held than the piece at hand needs.
 */
import { createReadStream } from 'node:fs';
import { open, readFile, type FileHandle } from 'node:fs/promises';
import { melodyResultSchema } from '@plundra/contract';
import { decodeAudio, encodeWavFrames, wavHead, type AudioBlock } from '@plundra/core/formats';
import type { Contour } from '@plundra/core/reading';
import { planPieces, type CorrectionPiece, type CorrectionSpec } from '@plundra/core/retune';

export interface CorrectedSoundTask {
  path: string;
  /** Length of the whole recording. */
  recordedSeconds: number;
  /** Result of the reading behind the line. */
  readingPath: string | undefined;
  spec: CorrectionSpec | null;
  fromSeconds: number;
  toSeconds: number;
  resultPath: string;
}

const PIECE_BYTES = 1 << 18;

export async function writeCorrectedSound(task: CorrectedSoundTask): Promise<void> {
  const contour = task.readingPath ? await readContour(task.readingPath) : undefined;
  const file = await open(task.resultPath, 'w');
  try {
    const writer = createWriter(task, contour, file);
    await decodeAudio(
      untilEnough(task.path, () => writer.isDone()),
      (block) => writer.take(block),
    );
    await writer.finish();
  } finally {
    await file.close();
  }
}

/** The bytes of a file, for as long as they are read. */
async function* untilEnough(path: string, enough: () => boolean): AsyncIterable<Uint8Array> {
  for await (const bytes of createReadStream(path, { highWaterMark: PIECE_BYTES })) {
    if (enough()) return;
    yield bytes as Uint8Array;
  }
}

function createWriter(task: CorrectedSoundTask, contour: Contour | undefined, file: FileHandle) {
  let pieces: CorrectionPiece[] | undefined;
  let next = 0;
  let held: SampleWindow | undefined;
  let written = 0;
  let sampleRateHz = 0;

  const begin = (block: AudioBlock) => {
    ({ sampleRateHz } = block);
    const at = (seconds: number) => Math.round(seconds * sampleRateHz);
    const recorded = { sampleRateHz, length: at(task.recordedSeconds) };
    pieces = planPieces(task.spec, contour, recorded, at(task.fromSeconds), at(task.toSeconds));
    held = new SampleWindow(block.channels.length);
  };
  const write = async (piece: CorrectionPiece) => {
    const made = piece.render(held!.between(piece.needFrom, piece.needTo));
    if (written === 0) await file.write(head(0));
    await file.write(encodeWavFrames(made, 'float'));
    written += made[0].length;
    next++;
    held!.forget(pieces![next]?.needFrom ?? Infinity);
  };
  const head = (frames: number) =>
    wavHead({ channels: held?.channels ?? 1, sampleRateHz, bitsPerSample: 32, float: true }, frames);

  return {
    isDone: () => pieces !== undefined && next >= pieces.length,
    async take(block: AudioBlock): Promise<void> {
      if (!pieces) begin(block);
      held!.add(block.channels, pieces![next]?.needFrom ?? Infinity);
      while (next < pieces!.length && pieces![next].needTo <= held!.end) await write(pieces![next]);
    },
    async finish(): Promise<void> {
      // A recording that is shorter than it was: the rest of the last piece is silence.
      while (pieces && next < pieces.length) await write(pieces[next]);
      await file.write(head(written), 0, undefined, 0);
    },
  };
}

/** A window on the samples of a recording that only moves forwards. */
class SampleWindow {
  /** Samples that were decoded so far. */
  end = 0;
  private blocks: { start: number; channels: Float32Array[] }[] = [];

  constructor(readonly channels: number) {}

  /** Nothing before `from` will be asked for. */
  add(channels: Float32Array[], from: number): void {
    const start = this.end;
    this.end += channels[0].length;
    // A decoder may use its arrays again.
    if (this.end > from) this.blocks.push({ start, channels: channels.map((channel) => channel.slice()) });
  }

  forget(before: number): void {
    this.blocks = this.blocks.filter(({ start, channels }) => start + channels[0].length > before);
  }

  /** Where there are no samples there is silence. */
  between(from: number, to: number): Float32Array[] {
    const out = Array.from({ length: this.channels }, () => new Float32Array(to - from));
    for (const { start, channels } of this.blocks) {
      const first = Math.max(from, start);
      const last = Math.min(to, start + channels[0].length);
      if (last > first)
        out.forEach((channel, c) =>
          channel.set(
            channels[Math.min(c, channels.length - 1)].subarray(first - start, last - start),
            first - from,
          ),
        );
    }
    return out;
  }
}

async function readContour(path: string): Promise<Contour> {
  const { contour } = melodyResultSchema.parse(JSON.parse(await readFile(path, 'utf8')));
  return {
    hopSeconds: contour.hopSeconds,
    f0Hz: Float32Array.from(contour.f0Hz),
    confidence: Float32Array.from(contour.confidence),
  };
}
