/**
 * A MIDI file looked through before it is parsed (Standard MIDI Files 1.0): the parser believes what a file says of its
 * lengths, and on a spoiled one it would read on for ever. What comes out are a header and tracks whose events are whole.
 */
import { joinAll } from './bytes.ts';

export interface WholeMidi {
  bytes: Uint8Array;
  /** How many tracks break off at something that is not an event; what comes before it is kept. */
  brokenTracks: number;
  /** The file ends in the middle of its last track. */
  endsEarly: boolean;
}

const HEADER = 0x4d546864;
const TRACK = 0x4d54726b;
const RIFF = 0x52494646;
const RMID = 0x524d4944;
const DATA = 0x64617461;
const RIFF_HEAD_BYTES = 12;
const CHUNK_HEAD_BYTES = 8;
const HEADER_BYTES = 6;
const LONGEST_VARINT = 4;
const END_OF_TRACK = Uint8Array.from([0x00, 0xff, 0x2f, 0x00]);

/** The MIDI file inside of a RIFF file (RIFF MIDI, Microsoft and IBM 1991), or the file itself. */
export function unwrapped(file: Uint8Array): Uint8Array {
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength);
  if (file.length < RIFF_HEAD_BYTES || view.getUint32(0) !== RIFF || view.getUint32(8) !== RMID) return file;
  for (let at = RIFF_HEAD_BYTES; at + CHUNK_HEAD_BYTES <= file.length;) {
    const length = view.getUint32(at + 4, true);
    const from = at + CHUNK_HEAD_BYTES;
    if (view.getUint32(at) === DATA) return file.subarray(from, from + length);
    // Chunks lie at even places.
    at = from + length + (length % 2);
  }
  return file;
}

/** Undefined where there is no header. Chunks that are no tracks are left out; each is as long as it says. */
export function wholeMidi(file: Uint8Array): WholeMidi | undefined {
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength);
  if (file.length < CHUNK_HEAD_BYTES + HEADER_BYTES || view.getUint32(0) !== HEADER) return undefined;
  const headerBytes = view.getUint32(4);
  if (headerBytes < HEADER_BYTES) return undefined;
  const tracks: Uint8Array[] = [];
  let brokenTracks = 0;
  let endsEarly = false;
  for (let at = CHUNK_HEAD_BYTES + headerBytes; at + CHUNK_HEAD_BYTES <= file.length;) {
    const length = view.getUint32(at + 4);
    const from = at + CHUNK_HEAD_BYTES;
    if (view.getUint32(at) === TRACK) {
      const body = file.subarray(from, from + length);
      const end = wholeEvents(body);
      if (from + length > file.length) endsEarly = true;
      else if (end.broken) brokenTracks++;
      tracks.push(chunk(TRACK, joinAll([body.subarray(0, end.at), END_OF_TRACK])));
    }
    at = from + length;
  }
  // A copy: a Buffer's slice shares the file's memory, and what is written into it would be written there.
  const header = Uint8Array.from(file.subarray(CHUNK_HEAD_BYTES, CHUNK_HEAD_BYTES + HEADER_BYTES));
  new DataView(header.buffer).setUint16(2, Math.min(tracks.length, 0xffff));
  return { bytes: joinAll([chunk(HEADER, header), ...tracks]), brokenTracks, endsEarly };
}

function chunk(type: number, body: Uint8Array): Uint8Array {
  const head = new Uint8Array(CHUNK_HEAD_BYTES);
  const view = new DataView(head.buffer);
  view.setUint32(0, type);
  view.setUint32(4, body.length);
  return joinAll([head, body]);
}

/** Where the whole events of a track end, without that which ends the track. */
function wholeEvents(body: Uint8Array): { at: number; broken: boolean } {
  let at = 0;
  let running: number | undefined;
  while (at < body.length) {
    const time = varint(body, at);
    if (!time) return { at, broken: true };
    let next = time.next;
    const first = body[next];
    const status: number | undefined = first >= 0x80 ? first : running;
    if (first >= 0x80) next++;
    if (status === undefined) return { at, broken: true };
    if (status === 0xff || status === 0xf0 || status === 0xf7) {
      const type = status === 0xff ? body[next++] : undefined;
      const length = varint(body, next);
      if (!length || length.next + length.value > body.length) return { at, broken: true };
      if (type === 0x2f) return { at, broken: false };
      next = length.next + length.value;
      running = undefined;
    } else if (status < 0xf0) {
      const data = status >= 0xc0 && status < 0xe0 ? 1 : 2;
      for (let i = 0; i < data; i++, next++)
        if (next >= body.length || body[next] >= 0x80) return { at, broken: true };
      running = status;
    } else return { at, broken: true };
    at = next;
  }
  // A track that simply stops is taken as it is.
  return { at, broken: false };
}

/** A number of one to four bytes; undefined where it does not end. */
function varint(bytes: Uint8Array, at: number): { value: number; next: number } | undefined {
  let value = 0;
  for (let i = 0; i < LONGEST_VARINT && at + i < bytes.length; i++) {
    value = value * 128 + (bytes[at + i] & 0x7f);
    if (bytes[at + i] < 0x80) return { value, next: at + i + 1 };
  }
  return undefined;
}
