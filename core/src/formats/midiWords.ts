/** The words of a MIDI file, given to the notes they are sung on: lyric events, or the text events of files to sing along. */
import { LONGEST_LYRIC, type Note, type NotePart } from '../song/index.ts';

/** A piece of text at a tick, as it stands in the file. */
export interface MidiWord {
  startTicks: number;
  text: string;
}

/** What one track holds. */
export interface TrackWords {
  words: MidiWord[];
  /** The parts that were made of its notes. */
  parts: readonly NotePart[];
}

/** A word this near to the start of a note is sung on it: a 64th. */
const NEAR_TICKS = 60;

/**
 * Each track's words go to the part with most notes where they stand: one of the same track, or of any where they stand in a track of
 * their own. Of notes that are struck together the highest gets the word.
 * @returns parts with words, and how many found no note
 */
export function withWords(tracks: readonly TrackWords[]): { parts: NotePart[]; left: number } {
  let parts = tracks.flatMap((track) => track.parts);
  let left = 0;
  for (const { words, parts: own } of tracks) {
    if (words.length === 0) continue;
    const singers = own.length > 0 ? own.map(({ id }) => id) : parts.map(({ id }) => id);
    let best: { part: NotePart; lyrics: Map<string, string> } | undefined;
    for (const part of parts) {
      if (!singers.includes(part.id) || part.kind === 'drums') continue;
      const lyrics = lyricsOf(part, words);
      if (lyrics.size > (best?.lyrics.size ?? 0)) best = { part, lyrics };
    }
    left += syllablesOf(words).length - (best?.lyrics.size ?? 0);
    if (best) {
      const { part, lyrics } = best;
      parts = parts.map((each) => (each === part ? sung(part, lyrics) : each));
    }
  }
  return { parts, left };
}

function sung(part: NotePart, lyrics: ReadonlyMap<string, string>): NotePart {
  return {
    ...part,
    passages: part.passages.map((passage) => ({
      ...passage,
      notes: passage.notes.map((note) => {
        const lyric = lyrics.get(note.id);
        return lyric ? { ...note, lyric } : note;
      }),
    })),
  };
}

/** Lyrics by the ids of notes. */
function lyricsOf({ passages }: NotePart, words: readonly MidiWord[]): Map<string, string> {
  const starts = new Map<number, { note: Note; startTicks: number }[]>();
  const bin = (ticks: number) => Math.floor(ticks / NEAR_TICKS);
  for (const { startTicks, notes } of passages)
    for (const note of notes) {
      const at = startTicks + note.startTicks;
      const there = starts.get(bin(at)) ?? [];
      there.push({ note, startTicks: at });
      starts.set(bin(at), there);
    }
  const lyrics = new Map<string, string>();
  for (const { startTicks, text } of syllablesOf(words)) {
    const near = [-1, 0, 1]
      .flatMap((by) => starts.get(bin(startTicks) + by) ?? [])
      .filter((each) => Math.abs(each.startTicks - startTicks) <= NEAR_TICKS && !lyrics.has(each.note.id));
    const nearest = Math.min(...near.map((each) => Math.abs(each.startTicks - startTicks)));
    const [top] = near
      .filter((each) => Math.abs(each.startTicks - startTicks) === nearest)
      .sort((a, b) => b.note.midi - a.note.midi);
    if (top) lyrics.set(top.note.id, text);
  }
  return lyrics;
}

/**
 * Syllables without the marks of lines and paragraphs ("/", "\\"). Where a file parts words by spaces (RP-017 of the
 * MIDI Association; files to sing along), a syllable that the next one goes on from ends with a hyphen.
 */
export function syllablesOf(words: readonly MidiWord[]): MidiWord[] {
  const inOrder = words
    .map((word) => ({ ...word, text: word.text.replace(/^[/\\]/, ' ') }))
    .filter(({ text }) => text !== '');
  const spaced = inOrder.some(({ text }) => /^\s|\s$/.test(text) && text.trim() !== '');
  return inOrder.flatMap(({ startTicks, text }, i) => {
    const plain = text.trim();
    if (plain === '') return [];
    const next = inOrder.at(i + 1)?.text;
    const goesOn =
      spaced && next !== undefined && !/\s$/.test(text) && !/^\s/.test(next) && !/[-–,.;:!?]$/.test(plain);
    return [{ startTicks, text: `${plain}${goesOn ? '-' : ''}`.slice(0, LONGEST_LYRIC) }];
  });
}
