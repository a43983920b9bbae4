/** Activations on disk: the numbers of frames and cents, then four deflated planes of frames × 88 bytes. */
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { deflateSync, inflateSync } from 'node:zlib';
import { KEYS, type Activations } from '@plundra/core/reading';

const PLANES = ['onset', 'active', 'level', 'attack'] as const;
const HEADER_BYTES = 8;
/** Silence is most of it; the fastest setting makes it small already. */
const DEFLATE_LEVEL = 1;

/** Undefined when there is no such file, or what is there is not whole. */
export async function loadActivations(path: string): Promise<Activations | undefined> {
  let bytes: Buffer;
  try {
    bytes = inflateSync(await readFile(path));
  } catch {
    return undefined;
  }
  const frames = bytes.readUInt32LE(0);
  const size = frames * KEYS;
  if (bytes.length !== HEADER_BYTES + PLANES.length * size) return undefined;
  const plane = (i: number) => new Uint8Array(bytes.buffer, bytes.byteOffset + HEADER_BYTES + i * size, size);
  return {
    frames,
    tuningCents: bytes.readFloatLE(4),
    onset: plane(0),
    active: plane(1),
    level: plane(2),
    attack: plane(3),
  };
}

export async function saveActivations(path: string, activations: Activations): Promise<void> {
  const header = Buffer.alloc(HEADER_BYTES);
  header.writeUInt32LE(activations.frames, 0);
  header.writeFloatLE(activations.tuningCents, 4);
  const bytes = Buffer.concat([header, ...PLANES.map((plane) => activations[plane])]);
  await mkdir(dirname(path), { recursive: true });
  await writeFile(`${path}.new`, deflateSync(bytes, { level: DEFLATE_LEVEL }));
  await rename(`${path}.new`, path);
}
