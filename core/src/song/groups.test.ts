import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { notePart, songWith } from '../test/songs.ts';
import {
  applyEdit,
  groupOf,
  groupsOf,
  isAudible,
  partRows,
  planGrouping,
  planGroupSet,
  planMoveRow,
  planUngroup,
  rowId,
  songSchema,
  type Edit,
  type Group,
  type Part,
  type Song,
} from './index.ts';

const group = (id: string, more: Partial<Group> = {}): Group => ({
  id,
  name: id,
  colour: 1,
  levelDb: 0,
  mute: false,
  solo: false,
  ...more,
});
const part = (id: string, of?: string, more: Partial<Part> = {}): Part => ({
  ...notePart([], { id, name: id }),
  ...(of && { group: of }),
  ...(more as object),
});
const song = (parts: Part[], ...groups: Group[]): Song => ({ ...songWith(...parts), groups });
const OPEN: ReadonlySet<string> = new Set();
/** What is shown: a group with its parts in brackets. */
const shown = (of: Song) =>
  partRows(of)
    .map((row) =>
      row.type === 'group' ? `${row.group.id}:` : groupOf(of, row.part) ? `(${row.part.id})` : row.part.id,
    )
    .join(' ');
/** What a step does; taken back it gives the song of before. */
const both = (of: Song, edit: Edit | undefined): Song => {
  const { song: after, inverse } = applyEdit(of, edit!);
  expect(applyEdit(after, inverse).song).toEqual(of);
  expect(songSchema.safeParse(after).success).toBe(true);
  return after;
};

describe('groups of parts', () => {
  const trio = song([part('a'), part('b', 'g'), part('c'), part('d', 'g')], group('g'));

  it('stand where their first part does, with all of their parts', () => {
    expect(shown(trio)).toBe('a g: (b) (d) c');
    expect(shown(song([part('a', 'gone'), part('b')]))).toBe('a b');
  });

  it('are made, joined, left and dissolved; an empty one goes', () => {
    const made = both(
      song([part('a'), part('b')]),
      planGrouping(song([part('a'), part('b')]), ['b'], group('n')),
    );
    expect(shown(made)).toBe('a n: (b)');
    expect(shown(both(made, planGrouping(made, ['a'], groupsOf(made)[0])))).toBe('n: (a) (b)');
    const left = both(made, planGrouping(made, ['b'], null));
    expect([shown(left), groupsOf(left)]).toEqual(['a b', []]);
    expect(shown(both(trio, planUngroup(trio, 'g')))).toBe('a b c d');
    expect(planGrouping(trio, ['a'], null)).toBeUndefined();
  });

  it('mute and solo all of their parts', () => {
    const heard = (of: Song) =>
      of.parts
        .filter((each) => isAudible(of, each))
        .map(({ id }) => id)
        .join('');
    expect(heard(trio)).toBe('abcd');
    expect(heard(both(trio, planGroupSet(trio, 'g', { mute: true })))).toBe('ac');
    const solo = both(trio, planGroupSet(trio, 'g', { solo: true }));
    expect(heard(solo)).toBe('bd');
    const mutedIn = {
      ...solo,
      parts: solo.parts.map((each) => (each.id === 'd' ? { ...each, mute: true } : each)),
    };
    expect(heard(mutedIn)).toBe('b');
    const other = {
      ...solo,
      parts: solo.parts.map((each) => (each.id === 'a' ? { ...each, solo: true } : each)),
    };
    expect(heard(other)).toBe('abd');
    // A part alone in a group that is not soloed; and a group without parts silences nothing.
    const one = {
      ...trio,
      parts: trio.parts.map((each) => (each.id === 'b' ? { ...each, solo: true } : each)),
    };
    expect(heard(one)).toBe('b');
    expect(heard(song([part('a')], group('empty', { solo: true })))).toBe('a');
  });
});

describe('moving a row', () => {
  const start = song([part('a'), part('b', 'g'), part('c', 'g'), part('d'), part('e')], group('g'));
  const move = (moving: string, over: string, folded = OPEN, of = start) => {
    const edit = planMoveRow(of, moving, over, folded);
    return edit ? shown(both(of, edit)) : undefined;
  };

  it('of a part goes where another stands, into its group or out of it', () => {
    expect(move('a', 'b')).toBe('g: (b) (a) (c) d e');
    expect(move('a', 'c')).toBe('g: (b) (c) (a) d e');
    expect(move('a', 'd')).toBe('g: (b) (c) d a e');
    expect(move('e', 'd')).toBe('a g: (b) (c) e d');
    expect(move('d', 'c')).toBe('a g: (b) (d) (c) e');
    expect(move('c', 'd')).toBe('a g: (b) d c e');
    expect(move('b', 'a')).toBe('b a g: (c) d e');
    expect(move('c', 'b')).toBe('a g: (c) (b) d e');
  });

  it('over the row of a group goes before it, or from above into it when it is open', () => {
    expect(move('d', 'g')).toBe('a d g: (b) (c) e');
    expect(move('a', 'g')).toBe('g: (a) (b) (c) d e');
    expect(move('a', 'g', new Set(['g']))).toBe('g: (b) (c) a d e');
    expect(move('b', 'g')).toBe('a b g: (c) d e');
  });

  it('of a group takes its parts along and goes into no other', () => {
    expect(move('g', 'a')).toBe('g: (b) (c) a d e');
    expect(move('g', 'e')).toBe('a d e g: (b) (c)');
    expect(move('g', 'b')).toBeUndefined();
    const two = song([part('a'), part('b', 'g'), part('c', 'h'), part('d', 'h')], group('g'), group('h'));
    expect(move('g', 'c', OPEN, two)).toBe('a h: (c) (d) g: (b)');
    expect(move('h', 'b', OPEN, two)).toBe('a h: (c) (d) g: (b)');
  });

  it('whatever is moved where, all parts are there and groups stay together', () => {
    const ids = ['a', 'b', 'c', 'd', 'e', 'f'];
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom(undefined, 'g', 'h'), { minLength: 6, maxLength: 6 }),
        fc.array(fc.tuple(fc.nat(7), fc.nat(7), fc.boolean()), { maxLength: 8 }),
        (groups, moves) => {
          let now = song(
            ids.map((id, i) => part(id, groups[i])),
            group('g'),
            group('h'),
          );
          for (const [from, to, isFolded] of moves) {
            const rows = partRows(now).map(rowId);
            const edit = planMoveRow(
              now,
              rows[from % rows.length],
              rows[to % rows.length],
              isFolded ? new Set(['g']) : OPEN,
            );
            if (!edit) continue;
            now = both(now, edit);
            expect(now.parts.map(({ id }) => id).sort()).toEqual(ids);
            // What is shown is the order of the song.
            const order = partRows(now).flatMap((row) => (row.type === 'part' ? [row.part.id] : []));
            expect(order).toEqual(now.parts.map(({ id }) => id));
          }
        },
      ),
    );
  });
});
