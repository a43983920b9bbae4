import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { createRandom } from '../signal/index.ts';
import { EDIT_TYPES, fullSong, randomEdit } from '../test/randomEdits.ts';
import { applyEdit, compactEdit, EditError, editSchema, songSchema, type Edit, type Song } from './index.ts';

const steps = fc.array(fc.tuple(fc.constantFrom(...EDIT_TYPES), fc.integer()), {
  minLength: 1,
  maxLength: 40,
});

/** What was never set and what is set to nothing say the same. */
const plain = (song: Song): unknown =>
  JSON.parse(
    JSON.stringify(song, (_, value: unknown) =>
      value && typeof value === 'object' && !Array.isArray(value)
        ? Object.fromEntries(
            Object.entries(value).filter(
              ([field, each]) =>
                !(
                  ['bends', 'sections', 'chordKeys', 'changes', 'keyChanges', 'groups'].includes(field) &&
                  (each as []).length === 0
                ) &&
                !(field === 'followOff' && each === false) &&
                !(field === 'formantSemitones' && each === 0),
            ),
          )
        : value,
    ),
  );

/** Takes a walk of edits; those that the song refuses are left out. */
function walk(path: [(typeof EDIT_TYPES)[number], number][], each: (before: Song, edit: Edit) => Song): Song {
  let song = fullSong();
  for (const [type, seed] of path) {
    const edit = randomEdit(type, song, createRandom(seed));
    try {
      song = each(song, edit);
    } catch (error) {
      if (!(error instanceof EditError)) throw error;
    }
  }
  return song;
}

describe('whatever is done to a song', () => {
  it('what is accepted leaves a song that its schema accepts, and an inverse that can be stored', () => {
    fc.assert(
      fc.property(steps, (path) => {
        walk(path, (before, edit) => {
          const { song, inverse } = applyEdit(before, edit);
          expect(songSchema.safeParse(song).error?.issues ?? []).toEqual([]);
          editSchema.parse(inverse);
          return song;
        });
      }),
      { numRuns: 300 },
    );
  });

  it('edits of every type are accepted often enough for the rest to mean something', () => {
    for (const type of EDIT_TYPES) {
      let accepted = 0;
      for (let seed = 0; seed < 100; seed++) {
        const song = fullSong();
        try {
          applyEdit(song, randomEdit(type, song, createRandom(seed)));
          accepted += 1;
        } catch (error) {
          if (!(error instanceof EditError)) throw error;
        }
      }
      expect(accepted, type).toBeGreaterThan(15);
    }
  });

  it('taking all of it back gives the song of the beginning', () => {
    fc.assert(
      fc.property(steps, (path) => {
        const inverses: Edit[] = [];
        let song = walk(path, (before, edit) => {
          const applied = applyEdit(before, edit);
          inverses.push(applied.inverse);
          return applied.song;
        });
        for (const inverse of inverses.reverse()) song = applyEdit(song, inverse).song;
        expect(plain(song)).toEqual(plain(fullSong()));
      }),
      // Some 12,000 edits.
      { numRuns: 600 },
    );
  });

  it('the same edit in fewer words does the same', () => {
    fc.assert(
      fc.property(steps, (path) => {
        walk(path, (before, edit) => {
          const { song } = applyEdit(before, edit);
          expect(applyEdit(before, compactEdit(before, edit)).song).toEqual(song);
          return song;
        });
      }),
      { numRuns: 100 },
    );
  });

  it('an edit survives being stored', () => {
    fc.assert(
      fc.property(steps, (path) => {
        walk(path, (before, edit) => {
          const applied = applyEdit(before, edit);
          const stored = (each: Edit) => JSON.parse(JSON.stringify(each)) as Edit;
          expect(applyEdit(before, stored(edit)).song).toEqual(applied.song);
          expect(plain(applyEdit(applied.song, stored(applied.inverse)).song)).toEqual(plain(before));
          return applied.song;
        });
      }),
      { numRuns: 100 },
    );
  });
});
