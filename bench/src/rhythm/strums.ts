/**
 * Ways to strum a bar (common practice, from memory), by the beats of a bar: "D" down, "u" up, "x" muted, "." not. As many signs as
 * beats have parts: halves, quarters or, where beats fall into three, thirds.
 */
export const STRUMS: Record<string, readonly string[]> = {
  '4': [
    'D.D.D.D.',
    'D.DuDuDu',
    'D.Du.uDu',
    'D..u.uD.',
    'DuDuDuDu',
    'D.x.D.x.',
    '.u.u.u.u',
    'D...D.Du',
    'D.xuDuxu',
  ],
  '3': ['D.D.D.', 'D.DuDu', 'D.x.x.', 'D...Du', 'D.uuD.'],
  '5': ['D.D.D.D.D.', 'D..u.uD.Du'],
  '2': ['D.D.', 'D.Du', 'x.D.'],
  '2 compound': ['D..D..', 'D.uD.u', 'DuuDuu', 'D.uDuu'],
  '4 compound': ['D..D..D..D..', 'D.uD.uD.uD.u'],
};

/** Others, to train on. */
export const PRACTICE_STRUMS: typeof STRUMS = {
  '4': [
    'D.DuD.Du',
    'D.D.DuDu',
    'D.DuD.D.',
    'D.Du.uD.',
    'DuDu.uDu',
    'D...D...',
    'D.......',
    'D.D.....',
    'D...DuDu',
    'D..uD..u',
    'D.xuD.xu',
    'x.D.x.D.',
    'D.....Du',
    'D..D..D.',
    'D.D.D.Du',
    'D...D...D.D.D.D.',
    'D.DuD.DuD.DuD.Du',
    'D...D.Du.uD.D.Du',
    'D...DuD...D.DuDu',
    'D..uD.Du.uDuD.Du',
    'DuDuDuDuDuDuDuDu',
    'D.x.D.xuD.x.D.xu',
    'xuDuxuDuxuDuxuDu',
    'D..DuuD.D..DuuD.',
    'D.......D...D.Du',
    '..D...D...D...D.',
  ],
  '3': [
    'D.DuD.',
    'DuDuDu',
    'D.D.Du',
    'D.....',
    'x.D.D.',
    'D..uD.',
    'D...D.',
    'D..uDuD.D.Du',
    'D...D.DuD.Du',
    'DuD.Du',
  ],
  '5': ['D.DuD.D.Du', 'D.D.DuD.D.', 'DuDuDuDuDu', 'D.....D...', 'D..D..D.D.', 'D.x.D.x.x.'],
  '7': ['D.D.D.D.D.D.D.', 'D...D...D.D.Du', 'D.DuD.DuD.DuDu', 'D...D.D.D...D.'],
  '2': ['DuDu', 'D..u', 'DuD.', '.u.u', 'D.DuD.Du', 'D..uDuDu', 'D.x.D.xu'],
  '2 compound': ['DuuD.u', 'D.....', 'D..D.u', 'D.DuD.', 'D.uuDu', 'DuDuDu'],
  '3 compound': ['D..D..D..', 'D.uD.uD.u', 'DuuDuuDuu'],
  '4 compound': ['DuuDuuDuuDuu', 'D..D.uD..D.u', 'D.....D..D.u', 'D.uDuuD.uDuu'],
};

/** Few strokes in a bar, as keyboards and guitars accompany (common practice, from memory): the beat is hardly played. */
export const SPARSE_STRUMS: typeof STRUMS = {
  '4': [
    'D..D....',
    'D.....D.',
    'D..D..D.',
    'D....D..',
    'D....D.D',
    'D...D..D',
    'D.......',
    'D..D..DuD..D....',
  ],
  '3': ['D...D.', 'D....D', 'D.....'],
  '5': ['D....D....', 'D..D..D.D.'],
  '7': ['D...D...D.....'],
  '2': ['D...', 'D..D'],
  '2 compound': ['D.....', 'D..D..', 'D....D'],
  '3 compound': ['D..D..D..'],
  '4 compound': ['D.....D.....', 'D....DD.....'],
};

/** Others, to measure on. */
export const LEFT_OUT_SPARSE_STRUMS: typeof STRUMS = {
  '4': ['D..DD...', 'D....DD.', '...D..D.', 'D.D....D', 'D..D.D..', 'D.....DD', 'D...D..D...D.D..'],
  '3': ['D..DD.', 'D.D..D', '..D.D.'],
  '5': ['D..D......', 'D.....D...'],
  '2': ['..D.', 'DD..'],
  '2 compound': ['D.D...', '...D.D'],
  '4 compound': ['D..D..D.....', 'D.D...D.D...'],
};
