import { strToU8, zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { createTimeMap, placedNotes, songSchema, createSong, type NotePart } from '../song/index.ts';
import { chordSymbol } from '../theory/index.ts';
import { isScoreName } from '../formats/index.ts';
import { readScore, ScoreFormatError } from './index.ts';

const ids = () => {
  let next = 0;
  return () => `id${next++}`;
};
const utf8 = (text: string) => new TextEncoder().encode(text);
const read = (text: string) => readScore(utf8(text), ids());

const PART = '<score-part id="P1"><part-name>Lead voice</part-name></score-part>';
const score = (measures: string, list = PART, more = '') =>
  `<?xml version="1.0" encoding="UTF-8"?>
  <!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN" "http://www.musicxml.org/dtds/partwise.dtd">
  <score-partwise version="4.0"><part-list>${list}</part-list><part id="P1">${measures}</part>${more}</score-partwise>`;
const measure = (inside: string, attributes = '') => `<measure ${attributes}>${inside}</measure>`;
const setup = (more = '', divisions = 2) =>
  `<attributes><divisions>${divisions}</divisions>${more}<time><beats>4</beats><beat-type>4</beat-type></time></attributes>`;
const note = (pitch: string, duration: number, more = '') => {
  const [, step, alter, octave] = /^([A-G])(#|b)?(\d)$/.exec(pitch)!;
  const altered = alter ? `<alter>${alter === '#' ? 1 : -1}</alter>` : '';
  return `<note><pitch><step>${step}</step>${altered}<octave>${octave}</octave></pitch><duration>${duration}</duration>${more}</note>`;
};
const rest = (duration: number) => `<note><rest/><duration>${duration}</duration></note>`;
/** Start and length in quarters, and the pitch. */
const notesOf = ({ parts }: { parts: NotePart[] }, index = 0) =>
  placedNotes(parts[index])
    .sort((a, b) => a.startTicks - b.startTicks || a.midi - b.midi)
    .map(({ startTicks, lengthTicks, midi }) => [startTicks / 960, lengthTicks / 960, midi]);

describe('a score', () => {
  it('as the standard greets the world with it', () => {
    // The first example of the MusicXML 4.0 tutorial (W3C Music Notation Community Group, "Hello World").
    const hello = `<?xml version="1.0" encoding="UTF-8" standalone="no"?>
      <!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN" "http://www.musicxml.org/dtds/partwise.dtd">
      <score-partwise version="4.0">
        <part-list><score-part id="P1"><part-name>Music</part-name></score-part></part-list>
        <part id="P1"><measure number="1">
          <attributes><divisions>1</divisions><key><fifths>0</fifths></key><time><beats>4</beats><beat-type>4</beat-type></time>
            <clef><sign>G</sign><line>2</line></clef></attributes>
          <note><pitch><step>C</step><octave>4</octave></pitch><duration>4</duration><type>whole</type></note>
        </measure></part>
      </score-partwise>`;
    const contents = read(hello);
    expect(contents.parts.map(({ name }) => name)).toEqual(['Music']);
    expect(notesOf(contents)).toEqual([[0, 4, 60]]);
    expect(contents).toMatchObject({ key: { fifths: 0, mode: 'major' }, changed: [] });
    const song = { ...createSong('s', 'Song'), parts: contents.parts, tempoMap: contents.tempoMap };
    expect(songSchema.safeParse(song).success).toBe(true);
  });

  it('of voices, staves, chords, tuplets and ties', () => {
    const triplet = (pitch: string) => note(pitch, 2);
    const first = measure(
      `${setup('', 6)}${note('C4', 6)}${triplet('D4')}${triplet('E4')}${triplet('F4')}${note('G4', 12, '<tie type="start"/>')}
       <backup><duration>24</duration></backup><forward><duration>12</duration></forward>${note('C3', 12, '<staff>2</staff>')}<note><chord/><pitch><step>E</step><octave>3</octave></pitch><duration>12</duration><staff>2</staff></note>`,
    );
    const second = measure(`${note('G4', 6, '<tie type="stop"/>')}${rest(18)}`);
    expect(notesOf(read(score(first + second)))).toEqual([
      [0, 1, 60],
      [1, 320 / 960, 62],
      [1280 / 960, 320 / 960, 64],
      [1600 / 960, 320 / 960, 65],
      [2, 2, 48],
      [2, 2, 52],
      [2, 3, 67],
    ]);
  });

  it('with a pickup, repeats and endings, and what they do to bars', () => {
    const pickup = measure(setup() + note('G4', 2), 'number="0" implicit="yes"');
    const ending = (number: number, type: string, more = '') =>
      `<barline><ending number="${number}" type="${type}"/>${more}</barline>`;
    const one = measure(`<barline location="left"><repeat direction="forward"/></barline>${note('C4', 8)}`);
    const two = measure(
      ending(1, 'start') + note('D4', 8) + ending(1, 'stop', '<repeat direction="backward"/>'),
    );
    const three = measure(ending(2, 'start') + note('E4', 8) + ending(2, 'stop'));
    const contents = read(score(pickup + one + two + three));
    expect(notesOf(contents).map(([start, , midi]) => [start, midi])).toEqual([
      [0, 67],
      [1, 60],
      [5, 62],
      [9, 60],
      [13, 64],
    ]);
    expect(contents.metreMap).toEqual([
      { startTicks: 0, beats: 1, unit: 4 },
      { startTicks: 960, beats: 4, unit: 4 },
    ]);
    const time = createTimeMap({ tempoMap: contents.tempoMap, metreMap: contents.metreMap });
    expect(time.barAt(960)).toMatchObject({ bar: 2, beat: 1 });
  });

  it('with words of several verses, of which a repeat sings the next', () => {
    const lyric = (verse: number, syllabic: string, text: string) =>
      `<lyric number="${verse}"><syllabic>${syllabic}</syllabic><text>${text}</text></lyric>`;
    const sung =
      note('C4', 4, lyric(1, 'begin', 'Fer') + lyric(2, 'single', 'home')) +
      note('D4', 4, lyric(1, 'end', 'ry') + lyric(2, 'single', 'again'));
    const back = '<barline><repeat direction="backward"/></barline>';
    const contents = read(score(measure(setup() + sung + back)));
    expect(placedNotes(contents.parts[0]).map(({ lyric: text }) => text)).toEqual([
      'Fer-',
      'ry',
      'home',
      'again',
    ]);
  });

  it('with changes of key, which a repeat goes back behind', () => {
    const key = (fifths: number) => `<attributes><key><fifths>${fifths}</fifths></key></attributes>`;
    const first = measure(setup('<key><fifths>1</fifths></key>') + note('G4', 8));
    const second = measure(key(3) + note('A4', 8) + '<barline><repeat direction="backward"/></barline>');
    const contents = read(score(first + second + measure(key(3) + note('A4', 8))));
    expect(contents.key?.fifths).toBe(1);
    expect(contents.keyChanges.map((each) => [each.startTicks / 3840, each.key.fifths])).toEqual([
      [1, 3],
      [2, 1],
      [3, 3],
    ]);
  });

  it('with a tie into a repeat sounds again where the bar before is another', () => {
    const back = '<barline><repeat direction="backward"/></barline>';
    const bars =
      measure(`${setup()}${note('C4', 4, '<tie type="stop"/>')}${rest(4)}`) +
      measure(`${rest(4)}${note('C4', 2, '<tie type="start"/>')}${rest(2)}${back}`);
    // Nothing meets: neither the first bar anything, nor the end of the second the first.
    expect(notesOf(read(score(bars))).map(([start, length]) => [start, length])).toEqual([
      [0, 2],
      [6, 1],
      [8, 2],
      [14, 1],
    ]);
  });

  it('for transposing instruments sounds as it does', () => {
    const transpose = '<key><fifths>2</fifths></key><transpose><chromatic>-2</chromatic></transpose>';
    const attributes = `<attributes><divisions>2</divisions>${transpose}</attributes>`;
    const contents = read(score(measure(attributes + note('D5', 8))));
    expect(notesOf(contents)).toEqual([[0, 4, 72]]);
    // A clarinet in B flat: written in D, sounding in C (worked out by hand).
    expect(contents.key?.fifths).toBe(0);
  });

  it('gives chords, tempo marks, metres, sections and loudness', () => {
    const harmony = (root: string, kind: string, more = '') =>
      `<harmony><root><root-step>${root}</root-step></root><kind>${kind}</kind>${more}</harmony>`;
    const degree = (value: number, alter: number, type: string) =>
      `<degree><degree-value>${value}</degree-value><degree-alter>${alter}</degree-alter><degree-type>${type}</degree-type></degree>`;
    const direction = (inside: string, sound = '') =>
      `<direction><direction-type>${inside}</direction-type>${sound}</direction>`;
    const contents = read(
      score(
        measure(
          `${setup('<key><fifths>-3</fifths><mode>minor</mode></key>')}
           ${direction('<metronome><beat-unit>quarter</beat-unit><beat-unit-dot/><per-minute>60</per-minute></metronome>')}
           ${direction('<rehearsal>Verse</rehearsal>')}${direction('<dynamics><p/></dynamics>')}
           ${harmony('C', 'minor-seventh', '<bass><bass-step>E</bass-step><bass-alter>-1</bass-alter></bass>')}${note('C4', 4)}
           ${harmony('G', 'dominant', degree(9, -1, 'add'))}${note('D4', 4)}`,
        ) +
          measure(
            `<attributes><time><beats>3</beats><beat-type>8</beat-type></time></attributes>${direction('', '<sound tempo="66"/>')}
             ${harmony('F', 'suspended-fourth')}${note('F4', 3, '').replace('<note>', '<note dynamics="120">')}`,
          ) +
          measure(`${harmony('A', 'Neapolitan')}${harmony('A', 'none')}${note('F4', 3)}`),
      ),
    );
    expect(contents.chords.map(({ startTicks, chord }) => [startTicks / 960, chordSymbol(chord)])).toEqual([
      [0, 'Cm7/Eb'],
      [2, 'G7(b9)'],
      [4, 'Fsus4'],
      [5.5, 'N.C.'],
    ]);
    expect(contents.tempoMap).toEqual([
      { startTicks: 0, bpm: 90 },
      { startTicks: 3840, bpm: 66 },
    ]);
    expect(contents.metreMap.at(1)).toEqual({ startTicks: 3840, beats: 3, unit: 8 });
    expect(contents.sections.map(({ name, startTicks }) => [name, startTicks])).toEqual([['Verse', 0]]);
    expect(placedNotes(contents.parts[0]).map(({ velocity }) => velocity)).toEqual([50, 50, 108, 50]);
    expect(contents.key).toEqual({ fifths: -3, mode: 'minor' });
    expect(contents.changed).toEqual(['Some chord symbols were not understood and left out.']);
  });

  it('of drums becomes a drum part, each by the key it names', () => {
    const list = `<score-part id="P1"><part-name>Drums</part-name>
      <midi-instrument id="I1"><midi-channel>10</midi-channel><midi-unpitched>37</midi-unpitched></midi-instrument>
      <midi-instrument id="I2"><midi-channel>10</midi-channel><midi-unpitched>43</midi-unpitched></midi-instrument></score-part>`;
    const hit = (id: string) =>
      `<note><unpitched><display-step>F</display-step><display-octave>4</display-octave></unpitched><duration>4</duration><instrument id="${id}"/></note>`;
    const contents = read(score(measure(setup() + hit('I1') + hit('I2')), list));
    expect(contents.parts[0].kind).toBe('drums');
    expect(notesOf(contents).map(([, , midi]) => midi)).toEqual([36, 42]);
  });

  it('puts grace notes just before their note, leaves cues out and keeps words', () => {
    const grace = '<note><grace/><pitch><step>B</step><octave>4</octave></pitch></note>';
    const cue = '<note><cue/><pitch><step>A</step><octave>4</octave></pitch><duration>4</duration></note>';
    const contents = read(
      score(measure(setup() + cue + grace + note('C5', 4, '<lyric><text>sea</text></lyric>'))),
    );
    expect(notesOf(contents)).toEqual([
      [1.875, 0.125, 71],
      [2, 2, 72],
    ]);
    expect(contents.changed).toEqual([]);
    expect(placedNotes(contents.parts[0]).find(({ midi }) => midi === 72)?.lyric).toBe('sea');
  });

  it('is the same laid out by time, packed, and in another encoding', () => {
    const bars = [measure(setup() + note('C4', 8)), measure(note('E4', 8))];
    const wanted = notesOf(read(score(bars.join(''))));
    const timewise = `<score-timewise><part-list>${PART}</part-list>${bars
      .map((bar) =>
        bar.replace('<measure >', '<measure><part id="P1">').replace('</measure>', '</part></measure>'),
      )
      .join('')}</score-timewise>`;
    expect(notesOf(read(timewise))).toEqual(wanted);
    const container = '<container><rootfiles><rootfile full-path="score/song.xml"/></rootfiles></container>';
    const packed = zipSync({
      'META-INF/container.xml': strToU8(container),
      'score/song.xml': strToU8(score(bars.join(''))),
      'score/picture.png': new Uint8Array(100),
    });
    expect(notesOf(readScore(packed, ids()))).toEqual(wanted);
    const text = score(bars.join('')).replace('UTF-8', 'UTF-16');
    const wide = new Uint8Array(2 + 2 * text.length);
    wide.set([0xff, 0xfe]);
    for (let i = 0; i < text.length; i++) wide[2 + 2 * i] = text.charCodeAt(i);
    expect(notesOf(readScore(wide, ids()))).toEqual(wanted);
  });

  it('of two hundred pages is read whole', () => {
    const bar = (i: number) =>
      measure(
        (i === 0 ? setup() : '') + Array.from({ length: 8 }, () => note('C4', 1)).join(''),
        `number="${i + 1}"`,
      );
    const contents = read(score(Array.from({ length: 3000 }, (_, i) => bar(i)).join('')));
    expect(placedNotes(contents.parts[0])).toHaveLength(24_000);
    expect(placedNotes(contents.parts[0]).at(-1)?.startTicks).toBe(2999 * 3840 + 7 * 480);
  });
});

describe('a file that is no score', () => {
  it.each<[string, Uint8Array, RegExp]>([
    ['empty', new Uint8Array(0), /empty/],
    ['a web page', utf8('<html><body>No music</body></html>'), /no MusicXML score/],
    ['text', utf8('These are the words of the song.'), /no MusicXML score|written wrongly/],
    ['a packed file that breaks off', zipSync({ 'a.xml': strToU8(score('')) }).slice(0, 60), /damaged/],
    ['a packed file without a score', zipSync({ 'a.txt': strToU8('words') }), /damaged/],
    ['a score without notes', utf8(score(measure(setup() + rest(8)))), /no notes/],
  ])('%s is refused with a sentence', (_, bytes, message) => {
    expect(() => readScore(bytes, ids())).toThrow(ScoreFormatError);
    expect(() => readScore(bytes, ids())).toThrow(message);
  });

  it('is known by its name', () => {
    expect(['a.musicxml', 'B.MXL', 'c.xml', 'd.mid', 'xml'].map(isScoreName)).toEqual([
      true,
      true,
      true,
      false,
      false,
    ]);
  });
});
