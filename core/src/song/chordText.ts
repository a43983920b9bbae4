/** The song's chords as text: a plain sheet, and the open form with chords in brackets. */
import { chordSymbol, keyName, tonicName, type ChordOrNone, type Key } from '../theory/index.ts';
import { changeAt, chordEntriesOf, songEndTicks } from './changes.ts';
import { keyChangesOf } from './keys.ts';
import { TICKS_PER_QUARTER, type Song } from './schema.ts';
import { sectionsOf } from './sections.ts';
import { beatNoteName, beatsPerMinute, beatTicksOf, type TimeMap } from './timeMap.ts';

/** A beat: a chord begins, the one before holds on, or there is none yet. */
type Cell = { chord: ChordOrNone } | 'held' | 'silent';

interface SheetRow {
  /** Name of the section that begins with it. */
  section: string | undefined;
  /** The key that the song goes to with it. */
  key: Key | undefined;
  bars: Cell[][];
}

/** Rows of at most `barsPerRow` bars; a section and a change of key begin a row of their own. */
function sheetRows(song: Song, time: TimeMap, barsPerRow: number): SheetRow[] {
  const changes = chordEntriesOf(song);
  const end = songEndTicks(song, time);
  const named = new Map(
    sectionsOf(song).map(({ startTicks, name }) => [time.barAt(startTicks).bar, name] as const),
  );
  const keys = new Map(
    keyChangesOf(song).map(({ startTicks, key }) => [time.barAt(startTicks).bar, key] as const),
  );
  const rows: SheetRow[] = [];
  for (let bar = 1; time.barStartTicks(bar) < end; bar++) {
    const [from, to] = [time.barStartTicks(bar), time.barStartTicks(bar + 1)];
    const beatTicks = time.beatTicksAt(from);
    const beats = Math.max(1, Math.round((to - from) / beatTicks));
    const cells = Array.from({ length: beats }, (): Cell => 'held');
    if (!changeAt(changes, from)) cells[0] = 'silent';
    for (const { startTicks, chord } of changes)
      if (startTicks >= from && startTicks < to)
        cells[Math.min(beats - 1, Math.round((startTicks - from) / beatTicks))] = { chord };
    const row = rows.at(-1);
    const section = named.get(bar);
    const key = keys.get(bar);
    if (row && section === undefined && !key && row.bars.length < barsPerRow) row.bars.push(cells);
    else rows.push({ section, key, bars: [cells] });
  }
  return rows;
}

/** One bar: a bar that only holds what was before is a dot; one chord needs no dots behind it. */
function barText(cells: readonly Cell[], write: (chord: ChordOrNone) => string): string {
  const texts = cells.map((cell) => (cell === 'held' ? '.' : cell === 'silent' ? '-' : write(cell.chord)));
  return texts.slice(1).every((text) => text === '.') ? texts[0] : texts.join(' ');
}

const rowText = (bars: readonly string[], width: number) =>
  `| ${bars.map((bar) => bar.padEnd(width)).join(' | ')} |`;

/** "4/4", "6/8". */
const metreText = ({ metreMap: [{ beats, unit }] }: Song) => `${beats}/${unit}`;

/** Plain text: title, key, tempo and metre, then chords over bars, sections by name. */
export function chordSheetText(song: Song, time: TimeMap, barsPerRow = 4): string {
  const rows = sheetRows(song, time, barsPerRow).map((row) => ({
    ...row,
    bars: row.bars.map((cells) => barText(cells, chordSymbol)),
  }));
  const width = Math.max(4, ...rows.flatMap(({ bars }) => bars.map((bar) => bar.length)));
  const head = [...(song.key ? [keyName(song.key)] : []), tempoText(song), metreText(song)];
  const lines = [song.title, head.join(' · '), ''];
  rows.forEach(({ section, key, bars }, i) => {
    if (section !== undefined) lines.push(...(i > 0 ? [''] : []), `${section}:`);
    if (key) lines.push(`(${keyName(key)})`);
    lines.push(rowText(bars, width));
  });
  return `${lines.join('\n')}\n`;
}

/** Open text with chords in brackets, a line for every row of bars, as songwriters exchange it. */
export function bracketedChords(song: Song, time: TimeMap, barsPerRow = 4): string {
  const lines = [`{title: ${song.title}}`];
  if (song.key) lines.push(keyLine(song.key));
  lines.push(
    `{tempo: ${Math.round(beatsPerMinute(song.tempoMap[0].bpm, song.metreMap[0]))}}`,
    `{time: ${metreText(song)}}`,
    '',
  );
  const rows = sheetRows(song, time, barsPerRow).map((row) => ({
    ...row,
    bars: row.bars.map((cells) => barText(cells, (chord) => `[${chordSymbol(chord)}]`)),
  }));
  const width = Math.max(4, ...rows.flatMap(({ bars }) => bars.map((bar) => bar.length)));
  for (const { section, key, bars } of rows) {
    if (section !== undefined) lines.push(`{comment: ${section}}`);
    if (key) lines.push(keyLine(key));
    lines.push(rowText(bars, width));
  }
  return `${lines.join('\n')}\n`;
}

const keyLine = (key: Key) => `{key: ${tonicName(key)}${key.mode === 'minor' ? 'm' : ''}}`;

/** "92 bpm", "60 bpm (dotted quarter)". */
function tempoText({ tempoMap: [{ bpm }], metreMap: [metre] }: Song): string {
  const beats = `${Math.round(beatsPerMinute(bpm, metre) * 10) / 10} bpm`;
  return beatTicksOf(metre) === TICKS_PER_QUARTER ? beats : `${beats} (${beatNoteName(metre)})`;
}
