/** The keys of the shelf; what means the same as on an intake's sheet has the same. */
export const SHELF_KEYS: readonly (readonly [key: string, does: string])[] = [
  ['arrows', 'move'],
  ['Shift arrows', 'choose from here to there'],
  ['Space or X', 'choose this one too'],
  ['Enter', 'look closer'],
  ['Esc', 'back; choose none'],
  ['S, R, H', 'select, reshoot, hold'],
  ['E', 'describe, words, location, terms'],
  ['T', 'turn a quarter right'],
  ['F', 'fetch the originals'],
  ['B', 'into a bundle'],
  ['A', 'what is like it'],
  ['W', 'where it is'],
  ['U', 'undo'],
  ['/', 'ask'],
  ['?', 'these keys'],
];
