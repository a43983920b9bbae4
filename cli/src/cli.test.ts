import { execFile } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { songSchema, type RecordingPart, type Song } from '@plundra/core/song';
import { readMidi } from '@plundra/core/formats';

// As users start it: built when its source has changed.
const main = new URL('../../scripts/plundra.mjs', import.meta.url).pathname;
const fixture = new URL('../../server/src/test/fixtures/tone.ogg', import.meta.url).pathname;
const folder = mkdtempSync(join(tmpdir(), 'plundra-cli-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function plundra(...args: string[]): Promise<{ code: number; out: string; error: string }> {
  return new Promise((resolve) => {
    const env = { ...process.env, PLUNDRA_DATA: join(folder, 'data') };
    execFile(process.execPath, [main, ...args], { env }, (failure, out, error) => {
      resolve({ code: failure ? Number(failure.code) : 0, out, error });
    });
  });
}
beforeAll(() => plundra(), 180_000);
const at = (name: string) => join(folder, name);

describe('the command line', { timeout: 180_000 }, () => {
  it('reads a melody to standard output, in the agreed form', async () => {
    const { code, out, error } = await plundra('melody', fixture, '--kind', 'guitar');
    expect({ code, error }).toEqual({ code: 0, error: '' });
    const reading = JSON.parse(out) as {
      contour: { hopSeconds: number; f0Hz: number[]; confidence: number[] };
      notes: { start: number; end: number; midi: number; velocity: number; confidence: number }[];
    };
    expect(reading.contour.confidence).toHaveLength(reading.contour.f0Hz.length);
    expect(reading.notes.map((note) => Math.round(note.midi))).toEqual([57, 64]);
    for (const note of reading.notes) {
      expect(note.end).toBeGreaterThan(note.start);
      expect(note.velocity).toBeGreaterThan(0);
      expect(note.confidence).toBeLessThanOrEqual(1);
    }
  });

  it('writes MIDI at a tempo', async () => {
    expect((await plundra('midi', fixture, '--out', at('tone.mid'), '--bpm', '60', '--bends')).code).toBe(0);
    let next = 0;
    const back = readMidi(new Uint8Array(readFileSync(at('tone.mid'))), () => `${next++}`);
    expect(back.tempoMap).toEqual([{ startTicks: 0, bpm: 60 }]);
    const [part] = back.parts;
    expect(part.passages[0].notes.map((note) => note.midi)).toEqual([57, 64]);
    expect(Math.abs(part.passages[0].notes[1].startTicks - 960)).toBeLessThan(60);
  });

  it('reads the notes of a chordal recording and the hits of drums, as JSON and as MIDI', async () => {
    const { code, out } = await plundra('notes', fixture);
    expect(code).toBe(0);
    const { notes } = JSON.parse(out) as {
      notes: { start: number; end: number; midi: number; confidence: number }[];
    };
    expect(notes.filter((note) => note.confidence > 0.5).map((note) => Math.round(note.midi))).toEqual(
      expect.arrayContaining([57, 64]),
    );
    const hits = await plundra('hits', fixture, '--sensitivity', '1');
    expect(hits.code).toBe(0);
    expect(JSON.parse(hits.out)).toMatchObject({ hits: expect.any(Array), onsets: expect.any(Array) });
    expect((await plundra('midi', fixture, '--notes', '--out', at('notes.mid'))).code).toBe(0);
    let next = 0;
    const back = readMidi(new Uint8Array(readFileSync(at('notes.mid'))), () => `${next++}`);
    expect(back.parts[0].passages[0].notes.map((note) => note.midi)).toEqual(
      expect.arrayContaining([57, 64]),
    );
    expect((await plundra('hits', fixture, '--sensitivity', '2')).code).toBe(2);
    expect((await plundra('midi', fixture, '--notes', '--hits', '--out', at('both.mid'))).code).toBe(2);
  });

  it('reads tempo, key and chords', async () => {
    const demo = (name: string) => new URL(`../../demo/data/${name}.flac`, import.meta.url).pathname;
    const recording = demo('kettle-keyboard');
    const chords = await plundra('chords', recording);
    expect(chords.code).toBe(0);
    const read = JSON.parse(chords.out) as {
      key: { tonic: string; mode: string };
      chords: { start: number; end: number; label: string; alternatives: { label: string }[] }[];
    };
    // "Kettle Waltz" is in D minor and starts on D minor.
    expect(read.key).toMatchObject({ tonic: 'D', mode: 'minor' });
    expect(read.chords.find(({ label }) => label !== 'N.C.')?.label).toMatch(/^Dm/);
    // "Ferry at Six" has 92 bpm in 4/4.
    const tempo = JSON.parse((await plundra('tempo', demo('ferry-bass'))).out) as {
      bpm: number;
      beats: number[];
      metre: string;
    };
    expect(Math.abs(tempo.bpm - 92)).toBeLessThan(1);
    expect(tempo.beats.length).toBeGreaterThan(60);
    expect(tempo.metre).toBe('4/4');
    // About 123 is a third faster: dotted eighths.
    const near = JSON.parse((await plundra('tempo', demo('ferry-bass'), '--near', '123')).out) as {
      bpm: number;
    };
    expect(Math.abs(Math.log(near.bpm / 123))).toBeLessThan(0.15);
    expect(await plundra('chords', recording, '--near', 'fast')).toMatchObject({ code: 2 });
    // A loop holds whole beats: two bars of 118 bpm, in E.
    const loop = JSON.parse((await plundra('tempo', demo('shelf/muted-eighths'), '--loop')).out) as object;
    expect(loop).toMatchObject({
      bpm: 118,
      beatsInLoop: 8,
      loop: true,
      metre: '4/4',
      key: { tonic: 'E', mode: 'major' },
    });
    const file = at('chords.mid');
    expect((await plundra('midi', recording, '--chords', '--bpm', '126', '--out', file)).code).toBe(0);
    let next = 0;
    const back = readMidi(new Uint8Array(readFileSync(file)), () => `${next++}`);
    expect(JSON.stringify(back).match(/"midi"/g)!.length).toBeGreaterThan(20);
  });

  it('imports into the data folder and exports from it', async () => {
    await plundra('midi', fixture, '--out', at('again.mid'));
    const imported = await plundra('import', fixture, at('again.mid'), '--title', 'Harbour');
    expect(imported.code).toBe(0);
    const exported = await plundra('export', 'Harbour', '--out', at('harbour.mid'));
    expect(exported).toEqual({ code: 0, out: '', error: '' });
    let next = 0;
    expect(readMidi(new Uint8Array(readFileSync(at('harbour.mid'))), () => `${next++}`)).toMatchObject({
      title: 'Harbour',
      parts: [{ name: 'tone' }],
    });
    expect((await plundra('export', 'Nowhere', '--out', at('x.mid'))).error).toMatch(
      /There is no song “Nowhere”.*Harbour/,
    );
    const shown = JSON.parse((await plundra('show', 'Harbour')).out) as Song;
    expect(shown.id).toBe(imported.out.trim());
    expect(songSchema.parse(shown)).toEqual(shown);
    const [recorded] = shown.parts as RecordingPart[];
    expect(recorded.passages.map(({ takeId }) => takeId)).toEqual(recorded.takes.map(({ id }) => id));
    expect((await plundra('show', 'Nowhere')).error).toMatch(/There is no song “Nowhere”/);
  });

  it('imports a score with its tempo, metre and chords', async () => {
    const note = (step: string) =>
      `<note><pitch><step>${step}</step><octave>4</octave></pitch><duration>3</duration></note>`;
    writeFileSync(
      at('score.musicxml'),
      `<score-partwise><part-list><score-part id="P"><part-name>Tune</part-name></score-part></part-list><part id="P"><measure>
       <attributes><divisions>2</divisions><time><beats>3</beats><beat-type>8</beat-type></time></attributes><sound tempo="72"/>
       <harmony><root><root-step>A</root-step></root><kind>minor</kind></harmony>${note('A')}</measure><measure>${note('C')}</measure></part></score-partwise>`,
    );
    const imported = await plundra('import', at('score.musicxml'));
    expect(imported.code).toBe(0);
    const shown = JSON.parse((await plundra('show', imported.out.trim())).out) as Song;
    expect(shown).toMatchObject({
      title: 'score',
      tempoMap: [{ startTicks: 0, bpm: 72 }],
      metreMap: [{ startTicks: 0, beats: 3, unit: 8 }],
      changes: [{ startTicks: 0, chord: { root: 'A' } }],
      parts: [{ name: 'Tune', passages: [{ notes: [{ midi: 69 }, { midi: 60, startTicks: 1440 }] }] }],
    });
  });

  it('tunes to a key and a grid, and sings along in thirds', async () => {
    // A3 and E4, half a second apart at 120 bpm, are on their notes: C major leaves them, a file moves them.
    writeFileSync(
      at('targets.json'),
      JSON.stringify([
        { start: 0, end: 0.9, midi: 58 },
        { start: 1, end: 1.9, midi: 62, newStart: 1.25 },
      ]),
    );
    const cases: [string[], number[], number][] = [
      [['tune', fixture, '--key', 'C:major'], [57, 64], 1],
      [['tune', fixture, '--targets', at('targets.json')], [58, 62], 1.25],
      [['harmony', fixture, '--interval', '3rd-above', '--key', 'A:minor'], [60, 67], 1],
    ];
    for (const [args, midi, second] of cases) {
      const done = await plundra(...args, '--out', at('out.wav'));
      expect(done, args.join(' ')).toEqual({ code: 0, out: '', error: '' });
      const { notes } = JSON.parse((await plundra('melody', at('out.wav'))).out) as {
        notes: { start: number; midi: number }[];
      };
      expect(notes.map((note) => Math.round(note.midi))).toEqual(midi);
      notes.forEach((note) => expect(Math.abs(note.midi - Math.round(note.midi))).toBeLessThan(0.06));
      expect(Math.abs(notes[1].start - second)).toBeLessThan(0.03);
    }
  });

  it('ends with 2 for wrong usage and 1 for bad files, each with a sentence', async () => {
    writeFileSync(at('words.wav'), 'only words '.repeat(20));
    const cases: [string[], number, RegExp][] = [
      [[], 2, /A command is missing/],
      [['sing'], 2, /no command “sing”/],
      [['toString'], 2, /no command “toString”/],
      [['melody'], 2, /Exactly one recording is needed/],
      [['melody', fixture, '--kind', 'harp'], 2, /--kind must be one of/],
      [['midi', fixture], 2, /--out OUT.mid is missing/],
      [['midi', fixture, '--out', 'x.mid', '--bpm', 'fast'], 2, /--bpm must lie between/],
      [['export', 'Harbour', '--out', 'song.pdf'], 2, /exported as MIDI/],
      [['tune', fixture], 2, /--out OUT.wav is missing/],
      [['tune', fixture, '--out', 'x.wav', '--key', 'H:dur'], 2, /--key is written like/],
      [['tune', fixture, '--out', 'x.wav', '--grid', '1/16'], 2, /--bpm N/],
      [['tune', fixture, '--out', 'x.wav', '--targets', at('words.wav')], 2, /is not JSON/],
      [
        ['harmony', fixture, '--out', 'x.wav', '--interval', 'near', '--key', 'A:minor'],
        2,
        /--interval is written/,
      ],
      [['melody', at('words.wav')], 1, /^This is not a sound file/],
      [['melody', at('missing.wav')], 1, /missing\.wav is not there/],
    ];
    await Promise.all(
      cases.map(async ([args, code, text]) => {
        const result = await plundra(...args);
        expect(result.code, args.join(' ')).toBe(code);
        expect(result.error).toMatch(text);
        expect(result.out).toBe('');
      }),
    );
  });

  it('lists the commands when it is asked for help', async () => {
    for (const word of ['help', '--help', '-h']) {
      const { code, out, error } = await plundra(word);
      expect([code, error]).toEqual([0, '']);
      expect(out).toMatch(/^Usage: plundra <command>/);
    }
  });
});
