/** A MusicXML file as a tree of elements: plain or packed (.mxl), in whatever encoding it says it has. */
import { XMLParser } from 'fast-xml-parser';
import { unzipSync } from 'fflate';

export class ScoreFormatError extends Error {
  override name = 'ScoreFormatError';
}

export interface Element {
  name: string;
  attributes: Readonly<Record<string, string>>;
  children: readonly Element[];
  /** Its own text, without spaces around it. */
  text: string;
}

/** Unpacked files beyond this are no scores: one of 200 pages has a tenth of it. */
const LARGEST_BYTES = 200e6;

export const child = (element: Element | undefined, name: string): Element | undefined =>
  element?.children.find((each) => each.name === name);
export const childrenOf = (element: Element | undefined, name: string): Element[] =>
  element?.children.filter((each) => each.name === name) ?? [];
export const textOf = (element: Element | undefined, name: string): string | undefined =>
  child(element, name)?.text || undefined;
/** Undefined where there is none, or what stands there is no number. */
export function numberOf(element: Element | undefined, name: string): number | undefined {
  const text = textOf(element, name);
  const value = Number(text);
  return text === undefined || !Number.isFinite(value) ? undefined : value;
}

/** The root of a score: `score-partwise` or `score-timewise`. Throws {@link ScoreFormatError}. */
export function parseScore(bytes: Uint8Array): Element {
  if (bytes.length === 0)
    throw new ScoreFormatError('This score is empty. Choose another file, or export it again.');
  const root = parseXml(isZip(bytes) ? unpacked(bytes) : bytes);
  if (root?.name === 'score-partwise' || root?.name === 'score-timewise') return root;
  throw new ScoreFormatError(
    'This file is no MusicXML score. Export the score as MusicXML (.musicxml, .xml or .mxl) and choose that file.',
  );
}

const isZip = (bytes: Uint8Array) => bytes[0] === 0x50 && bytes[1] === 0x4b;

const broken = () =>
  new ScoreFormatError('This packed score is damaged and cannot be opened. Export it again.');

/** The score within a packed file: the first that its container names (MusicXML 4.0, compressed files). */
function unpacked(bytes: Uint8Array): Uint8Array {
  const read = (wanted: (name: string) => boolean) => {
    try {
      return unzipSync(bytes, {
        filter: ({ name, originalSize }) => wanted(name) && originalSize <= LARGEST_BYTES,
      });
    } catch {
      throw broken();
    }
  };
  const CONTAINER = 'META-INF/container.xml';
  const container = read((name) => name === CONTAINER)[CONTAINER] as Uint8Array | undefined;
  const rootfile = container && child(child(parseXml(container), 'rootfiles'), 'rootfile');
  const path = rootfile?.attributes['full-path'];
  // Some programs leave the container out.
  const isScore = (name: string) =>
    path === undefined ? /^[^/]*\.(musicxml|xml)$/i.test(name) : name === path;
  const [score] = Object.values(read(isScore)) as (Uint8Array | undefined)[];
  if (!score) throw broken();
  return score;
}

type Ordered = Record<string, unknown>;

function parseXml(bytes: Uint8Array): Element | undefined {
  const parser = new XMLParser({
    preserveOrder: true,
    ignoreAttributes: false,
    attributeNamePrefix: '',
    parseTagValue: false,
    parseAttributeValue: false,
    trimValues: true,
  });
  try {
    const nodes = parser.parse(decoded(bytes)) as Ordered[];
    return nodes.map(elementOf).find((each) => each !== undefined && !each.name.startsWith('?'));
  } catch (error) {
    throw new ScoreFormatError(
      `This score breaks off or is written wrongly (${error instanceof Error ? error.message : 'not readable'}). Export it again.`,
    );
  }
}

function elementOf(node: Ordered): Element | undefined {
  const name = Object.keys(node).find((key) => key !== ':@' && key !== '#text');
  if (name === undefined) return undefined;
  const inside = (node[name] as Ordered[] | undefined) ?? [];
  return {
    name,
    attributes: (node[':@'] as Record<string, string> | undefined) ?? {},
    children: inside.flatMap((each) => elementOf(each) ?? []),
    text: inside
      .map((each) => ('#text' in each ? String(each['#text']) : ''))
      .join('')
      .trim(),
  };
}

/** By its byte order mark, then by what its first line says, else UTF-8. */
function decoded(bytes: Uint8Array): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return new TextDecoder('utf-16le').decode(bytes);
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return new TextDecoder('utf-16be').decode(bytes);
  const start = String.fromCharCode(...bytes.subarray(0, 200));
  const said = /^\s*<\?xml[^>]*encoding=["']([\w-]+)["']/.exec(start)?.[1] ?? 'utf-8';
  try {
    return new TextDecoder(said).decode(bytes);
  } catch {
    return new TextDecoder().decode(bytes);
  }
}
