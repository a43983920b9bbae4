/**
 * Text in MIDI files. The standard asks for ASCII; what is found is UTF-8, or whatever the computer that wrote it used. The library
 * gives and takes one character a byte.
 */

/** A name in UTF-8. */
export function toMidiText(text: string): string {
  return String.fromCharCode(...new TextEncoder().encode(text));
}

const UTF16_MARKS: readonly (readonly [first: number, second: number, label: string])[] = [
  [0xff, 0xfe, 'utf-16le'],
  [0xfe, 0xff, 'utf-16be'],
];
/** Bytes from here on are letters in Cyrillic's one-byte code, and rare accents in that of Western Europe. */
const FIRST_CYRILLIC = 0xc0;
/** Who writes in Cyrillic hardly mixes: so many of the letters lie there. */
const MOSTLY = 0.5;

/** A name, without spaces around it; see {@link decodedMidiText}. */
export function fromMidiText(text: string): string {
  return withoutControls(decodedMidiText(text)).trim();
}

/** Pieces of text of one writer, decoded together: of a few letters alone nobody could tell how they were written. */
export function fromMidiTexts(texts: readonly string[]): string[] {
  return decodedMidiText(texts.map(withoutControls).join(SEPARATOR)).split(SEPARATOR);
}

/** The texts hold none of these, and it is one byte in every coding but UTF-16. */
const SEPARATOR = '\n';

/** Text in the first of these that fits: UTF-16 with its mark, UTF-8, Shift JIS, Windows-1251 and Windows-1252. */
function decodedMidiText(text: string): string {
  const bytes = Uint8Array.from(text, (char) => char.charCodeAt(0));
  const marked = UTF16_MARKS.find(([first, second]) => bytes[0] === first && bytes[1] === second);
  if (marked) return new TextDecoder(marked[2]).decode(bytes);
  const utf8 = decoded(bytes, 'utf-8');
  if (utf8 !== undefined) return utf8;
  const japanese = decoded(bytes, 'shift_jis');
  if (japanese !== undefined && isJapanese(japanese, bytes)) return japanese;
  return new TextDecoder(isCyrillic(bytes) ? 'windows-1251' : 'windows-1252').decode(bytes);
}

function decoded(bytes: Uint8Array, label: string): string | undefined {
  try {
    return new TextDecoder(label, { fatal: true }).decode(bytes);
  } catch {
    return undefined;
  }
}

/**
 * Kana or characters; half-width kana alone may be accents that were misread. Kana and usual characters begin with bytes that
 * are hardly a letter elsewhere; rare ones may be Cyrillic that was misread.
 */
function isJapanese(text: string, bytes: Uint8Array): boolean {
  return /[\u3040-\u30ff\u4e00-\u9fff]/.test(text) && bytes.some((byte) => byte >= 0x81 && byte <= 0x9f);
}

function isCyrillic(bytes: Uint8Array): boolean {
  const high = bytes.filter((byte) => byte >= FIRST_CYRILLIC).length;
  const low = bytes.filter((byte) => (byte | 0x20) >= 0x61 && (byte | 0x20) <= 0x7a).length;
  return high > MOSTLY * (high + low);
}

function withoutControls(text: string): string {
  // eslint-disable-next-line no-control-regex -- old programs end names with zeros
  return text.replace(/[\u0000-\u001f\u007f]/g, ' ');
}
