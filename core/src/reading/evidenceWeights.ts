import stored from './noteEvidenceWeights.json' with { type: 'json' };
import type { EvidenceWeights } from './noteEvidence.ts';

let decoded: EvidenceWeights | undefined;

/** The trained weights that ship with the reader (int16, one scale an array). */
export function evidenceWeights(): EvidenceWeights {
  decoded ??= {
    hiddenSize: stored.hiddenSize,
    hidden: decode(stored.hidden),
    output: decode(stored.output),
  };
  return decoded;
}

function decode({ scale, int16 }: { scale: number; int16: string }): Float32Array {
  const bytes = Uint8Array.from(atob(int16), (char) => char.charCodeAt(0));
  const view = new DataView(bytes.buffer);
  return Float32Array.from({ length: bytes.length / 2 }, (_, i) => view.getInt16(i * 2, true) * scale);
}
