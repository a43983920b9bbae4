import { describe, expect, it } from 'vitest';
import { notePart, recordingPart, songWith } from '../test/songs.ts';
import { EDIT_VERSION, SongFormatError, upgradeEdit, upgradeSong, type Edit } from './index.ts';

const song = songWith(recordingPart(null), notePart([]));
const messageOf = (work: () => unknown) => {
  try {
    work();
  } catch (error) {
    if (error instanceof SongFormatError) return error.message;
    throw error;
  }
  return undefined;
};

describe('a stored song', () => {
  it('of this release is taken as it is', () => {
    expect(upgradeSong(JSON.parse(JSON.stringify(song)))).toEqual(song);
  });

  it('of a later release says what to do', () => {
    expect(messageOf(() => upgradeSong({ ...song, schemaVersion: 99 }))).toMatch(/newer version of Plundra/);
  });

  it.each<[string, unknown]>([
    ['nothing', null],
    ['a word', 'song'],
    ['a broken part', { ...song, parts: [{}] }],
  ])('that is %s is not taken for one', (_, stored) => {
    expect(messageOf(() => upgradeSong(stored))).toMatch(/not as it should be/);
  });
});

describe('a stored edit', () => {
  const tooMuch: Edit = {
    type: 'passage.set',
    partId: 'flute',
    passageId: 'p',
    patch: { lengthTicks: 960, offsetSeconds: 2 },
  };

  it('of version 1 loses fields that its passage never had', () => {
    const clean = { ...tooMuch, patch: { lengthTicks: 960 } };
    expect(upgradeEdit(tooMuch, 1, song)).toEqual(clean);
    expect(upgradeEdit({ type: 'batch', edits: [tooMuch] }, 1, song)).toEqual({
      type: 'batch',
      edits: [clean],
    });
  });

  it('knows passages that came with the same batch', () => {
    const added = { ...notePart([]), id: 'new' };
    const edits = [
      { type: 'part.add', part: added, index: 0 },
      { ...tooMuch, partId: 'new' },
    ];
    expect(upgradeEdit({ type: 'batch', edits }, 1, song)).toMatchObject({
      edits: [{}, { patch: { lengthTicks: 960 } }],
    });
  });

  it('of this version keeps every field', () => {
    expect(upgradeEdit(tooMuch, EDIT_VERSION, song)).toEqual(tooMuch);
  });

  it('of a later release, or that is none, is refused', () => {
    expect(messageOf(() => upgradeEdit(tooMuch, EDIT_VERSION + 1, song))).toMatch(/newer version/);
    expect(messageOf(() => upgradeEdit({ type: 'dance' }, 1, song))).toMatch(/cannot be read/);
  });
});
