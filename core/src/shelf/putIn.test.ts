import { describe, expect, it } from 'vitest';
import {
  applyEdit,
  createPassageTime,
  createTimeMap,
  findPassages,
  passageEndTicks,
  planModulation,
  planTranspose,
  planTransposePassages,
  type Edit,
  type Part,
  type RecordingPassage,
  type Song,
} from '../song/index.ts';
import { keyName, keyOn } from '../theory/index.ts';
import { bassLoop, phraseNotes, pianoPhrase } from '../test/shelf.ts';
import { notePart, recordingPart, songWith } from '../test/songs.ts';
import { itemSong } from './itemSong.ts';
import type { ShelfItem } from './item.ts';
import { keptItemOf } from './keep.ts';
import { planPutIn, type PutIn } from './putIn.ts';

const BAR = 3840;
const song: Song = {
  ...songWith(),
  key: { fifths: 1, mode: 'major' },
  tempoMap: [{ startTicks: 0, bpm: 92 }],
};
const bassPart: Part = {
  ...recordingPart(null),
  id: 'new',
  name: 'Bass',
  material: 'bass',
  takes: [],
  passages: [],
};
const pianoPart: Part = { ...notePart([]), id: 'piano', passages: [] } as Part;
let made = 0;
const createId = () => `id-${made++}`;
function put(item: ShelfItem, more: Partial<PutIn> = {}, into: Song = song) {
  const plan = planPutIn(
    into,
    { item, into: bassPart, atTicks: 2 * BAR, fit: { key: true, tempo: true }, upbeatBefore: true, ...more },
    createId,
  );
  const applied = applyEdit(into, plan.edit);
  return { plan, song: applied.song, inverse: applied.inverse, part: applied.song.parts.at(-1)! };
}
const passagesOf = (part: Part) => part.passages;

describe('putting an item into a song', () => {
  it('follows the tempo of the song, in its key, and says so; undone it is gone', () => {
    const { plan, part, inverse, song: after } = put(bassLoop());
    expect(part).toMatchObject({ kind: 'recording', material: 'bass' });
    const [passage] = passagesOf(part);
    expect(passage).toMatchObject({
      startTicks: 2 * BAR,
      durationSeconds: 9.6,
      clock: { keeps: 'song', bpm: 100 },
      key: { fifths: 1, mode: 'major' },
      name: 'Low tide walk',
    });
    expect(part.kind === 'recording' && part.takes[0].stretch?.semitones).toBe(2);
    expect(passageEndTicks(passage, createTimeMap(after))).toBe(6 * BAR);
    expect(plan.endTicks).toBe(6 * BAR);
    expect(applyEdit(after, inverse).song).toEqual(song);
  });

  it('lies with its beats on those of the song, where it was kept from one that followed how it was played', () => {
    const tempoMap = [84, 110, 96, 120, 90].map((bpm, i) => ({ startTicks: 2000 * i, bpm }));
    const played: Song = { ...songWith(recordingPart(null)), tempoMap };
    const [part] = played.parts;
    const seconds = createTimeMap(played).secondsAt;
    const passage = { ...part.passages[0], durationSeconds: seconds(4 * BAR) } as RecordingPassage;
    const { sound, ...facts } = keptItemOf(played, { part, passage })!;
    expect(facts).toMatchObject({ kind: 'loop' });
    const item = { ...bassLoop(), ...facts, sound: { ...sound, picture: [] } } as ShelfItem;
    // The same counted twice as fast, as it can be corrected by hand.
    for (const [factor, tempo] of [
      [1, 92],
      [2, 150],
    ]) {
      const into = { ...song, tempoMap: [{ startTicks: 0, bpm: tempo }] };
      const counted = { ...item, bpm: factor * facts.bpm! };
      const after = put(counted, { untilTicks: 18 * BAR }, into);
      const [first, second] = passagesOf(after.part) as RecordingPassage[];
      const { toTicks } = createPassageTime(first, createTimeMap(after.song));
      for (let beat = 0; beat <= 16; beat++)
        expect(toTicks(seconds(960 * beat))).toBeCloseTo(2 * BAR + factor * 960 * beat, -1);
      expect(second.startTicks).toBe((2 + 4 * factor) * BAR);
    }
  });

  it('has its upbeat before the bar, wherever in its recording it begins', () => {
    const loop = bassLoop();
    const sound = { ...loop.sound, offsetSeconds: 1.7, upbeatSeconds: 0.6 } as ShelfItem['sound'];
    // A quarter at the loop's 100 bpm.
    expect(passagesOf(put({ ...loop, sound }).part)[0].startTicks).toBe(2 * BAR - 960);
  });

  it('fills to a bar, the last one cut there', () => {
    const { part, song: after, plan } = put(bassLoop(), { untilTicks: 12 * BAR });
    const time = createTimeMap(after);
    expect(passagesOf(part).map(({ startTicks }) => startTicks / BAR)).toEqual([2, 6, 10]);
    expect(passageEndTicks(passagesOf(part)[2], time)).toBe(12 * BAR);
    expect(passagesOf(part).map(({ key }) => key && keyName(key))).toEqual(Array(3).fill('G major'));
    expect(plan.places).toHaveLength(3);
    expect(plan.endTicks).toBe(12 * BAR);
  });

  it('keeps its own time and key where that is wanted', () => {
    const { part } = put(bassLoop(), { fit: { key: false, tempo: false } });
    expect(passagesOf(part)[0]).toMatchObject({ key: { fifths: -1, mode: 'major' } });
    expect(passagesOf(part)[0]).not.toHaveProperty('clock');
    expect(part.kind === 'recording' && part.takes[0]).not.toHaveProperty('stretch');
  });

  it('lets its first beat fall on the bar, and leaves the upbeat out at the start of the song', () => {
    const loop = bassLoop();
    const early = { ...loop, sound: { ...loop.sound, upbeatSeconds: 0.6 } } as ShelfItem;
    // 0.6 s at 100 bpm are a beat.
    expect(passagesOf(put(early).part)[0].startTicks).toBe(2 * BAR - 960);
    expect(passagesOf(put(early, { upbeatBefore: false }).part)[0].startTicks).toBe(2 * BAR);
    expect(passagesOf(put(early, { atTicks: 0 }).part)[0]).toMatchObject({
      startTicks: 0,
      offsetSeconds: 0.6,
      durationSeconds: 9,
    });
  });

  it('takes the upbeat of a loop that is counted at half its tempo as long as it sounds there', () => {
    const loop = bassLoop({ bpm: 180 });
    const early = { ...loop, sound: { ...loop.sound, upbeatSeconds: 1 / 3 } } as ShelfItem;
    // A third of a second is half a beat at 90 bpm.
    expect(passagesOf(put(early).part)[0]).toMatchObject({
      clock: { keeps: 'song', bpm: 90 },
      startTicks: 2 * BAR - 480,
    });
  });

  it('lets its first beat fall on the bar in its own time too, where the song is slower than it or becomes slower', () => {
    const loop = bassLoop();
    const early = { ...loop, sound: { ...loop.sound, upbeatSeconds: 0.6 } } as ShelfItem;
    const own = { fit: { key: true, tempo: false } };
    const slowing = {
      ...song,
      tempoMap: [
        { startTicks: 0, bpm: 92 },
        { startTicks: 2 * BAR - 480, bpm: 60 },
      ],
    };
    for (const into of [song, slowing]) {
      const time = createTimeMap(into);
      const [passage] = passagesOf(put(early, own, into).part);
      expect(time.secondsAt(passage.startTicks) + 0.6).toBeCloseTo(time.secondsAt(2 * BAR), 3);
    }
    expect(passagesOf(put(early, { ...own, atTicks: 0 }).part)[0]).toMatchObject({ offsetSeconds: 0.6 });
  });

  it('lets a phrase begin before the bar too, and hides its upbeat at the start of the song', () => {
    const phrase = pianoPhrase();
    const early = { ...phrase, sound: { ...phrase.sound, upbeatTicks: 960 } } as ShelfItem;
    const into = { into: pianoPart, notes: phraseNotes };
    const [before] = passagesOf(put(early, into).part);
    expect(before).toMatchObject({ startTicks: 2 * BAR - 960, lengthTicks: BAR });
    expect(before).not.toHaveProperty('offsetTicks');
    expect(passagesOf(put(early, { ...into, atTicks: 0 }).part)[0]).toMatchObject({
      startTicks: 0,
      offsetTicks: 960,
      lengthTicks: BAR - 960,
    });
  });

  it('keeps a window on a recording as it is', () => {
    const loop = bassLoop();
    const window = { ...loop, sound: { ...loop.sound, offsetSeconds: 3, durationSeconds: 2.4 } } as ShelfItem;
    expect(passagesOf(put(window).part)[0]).toMatchObject({ offsetSeconds: 3, durationSeconds: 2.4 });
  });

  it('writes the notes of a phrase in the key of the song; what would leave the range stays by an octave', () => {
    const { part } = put(pianoPhrase(), { into: pianoPart, notes: phraseNotes });
    const [passage] = passagesOf(part);
    expect(passage).toMatchObject({ key: { fifths: 1, mode: 'minor' }, lengthTicks: BAR });
    const notes = passage.type === 'notes' ? passage.notes : [];
    // D minor to E minor.
    expect(notes.map(({ midi }) => midi)).toEqual([64, 117]);
    expect(notes.map(({ id }) => id)).not.toContain('n1');
  });

  it('goes into a part that is there, beside what it has', () => {
    const full = { ...song, parts: [recordingPart(null)] };
    const { song: after } = put(bassLoop(), { into: full.parts[0] }, full);
    expect(after.parts).toHaveLength(1);
    expect(after.parts[0].passages).toHaveLength(2);
  });

  it('says why it cannot go into a part', () => {
    expect(() => put(bassLoop(), { into: pianoPart })).toThrow('is a part of notes');
    expect(() => put(pianoPhrase(), { notes: phraseNotes })).toThrow('is made of notes');
    expect(() => put(pianoPhrase(), { into: pianoPart })).toThrow('are not here yet');
  });

  it('alone it is a song in its own tempo and key', () => {
    const alone = itemSong(bassLoop(), undefined, bassPart);
    expect(alone).toMatchObject({
      key: { fifths: -1, mode: 'major' },
      tempoMap: [{ startTicks: 0, bpm: 100 }],
    });
    expect(alone.parts[0].passages[0]).not.toHaveProperty('clock');
    expect(alone.parts[0].passages[0].startTicks).toBe(0);
  });
});

describe('the key that a passage says it is in', () => {
  const inSong = (): Song => {
    const withBass = put(bassLoop(), { untilTicks: 10 * BAR }).song;
    return put(pianoPhrase(), { into: pianoPart, notes: phraseNotes }, withBass).song;
  };
  const keysOf = (all: Song) =>
    all.parts.flatMap(({ passages }) => passages.map(({ key }) => key && keyName(key)));
  const apply = (to: Song, edit: Edit) => applyEdit(to, edit);

  it('goes along when the whole song is transposed, and back', () => {
    const before = inSong();
    const { song: after, inverse } = apply(before, planTranspose(before, keyOn(9, 'major'), 2).edit);
    expect(keysOf(after)).toEqual(['A major', 'A major', 'F♯ minor']);
    expect(apply(after, inverse).song).toEqual(before);
    const again = apply(after, planTranspose(after, keyOn(2, 'major'), 5).edit).song;
    expect(keysOf(again)).toEqual(['D major', 'D major', 'B minor']);
  });

  it('goes along when passages are transposed, whether their take is shared or copied', () => {
    const before = inSong();
    const [bass, piano] = before.parts;
    const places = [
      { partId: bass.id, passageId: bass.passages[1].id },
      { partId: piano.id, passageId: piano.passages[0].id },
    ];
    const up = planTransposePassages(before, findPassages(before, places), 3, createId)!;
    const after = apply(before, up.edit).song;
    expect(keysOf(after)).toEqual(['G major', 'B♭ major', 'G minor']);
    // The recording sounds in the key that it says: F major as played, moved by as much.
    const shifts =
      after.parts[0].kind === 'recording' && after.parts[0].takes.map(({ stretch }) => stretch?.semitones);
    expect(shifts).toEqual([2, 5]);
  });

  it('goes along from a modulation on, also in what the modulation cuts', () => {
    const before = inSong();
    const { edit } = planModulation(before, 4 * BAR, keyOn(9, 'major'), 2, createId);
    const after = apply(before, edit).song;
    const time = createTimeMap(after);
    for (const part of after.parts)
      for (const passage of part.passages)
        expect(keyName(passage.key!), `${part.name} at ${time.barAt(passage.startTicks).bar}`).toBe(
          part.kind === 'notes' ? 'E minor' : passage.startTicks < 4 * BAR ? 'G major' : 'A major',
        );
  });

  it('says nothing where nobody said one', () => {
    const before = songWith(recordingPart(null));
    expect(keysOf(apply(before, planTranspose(before, keyOn(9, 'major'), 2).edit).song)).toEqual([undefined]);
  });
});
