/** The keys of the intake page, mnemonic to our words. */
export const KEYS: readonly { readonly title: string; readonly keys: readonly (readonly [key: string, does: string])[] }[] = [
  {
    title: 'On the sheet and closer',
    keys: [
      ['arrows', 'move'],
      ['Space', 'take or leave'],
      ['Enter', 'look closer'],
      ['Esc', 'back; choose none'],
      ['S', 'select'],
      ['R', 'reshoot'],
      ['H', 'hold'],
      ['D', 'describe'],
      ['T', 'turn a quarter right'],
      ['Shift T', 'turn a quarter left'],
      ['B', 'belongs to another assignment'],
      ['C', 'clock and cameras'],
      ['G', 'let the card go'],
      ['U', 'undo'],
      ['Shift U', 'do again'],
    ],
  },
  {
    title: 'On the sheet',
    keys: [
      ['A', 'take everything that is new'],
      ['N', 'take nothing'],
      ['V', 'take what is left, leave what is taken'],
      ['X', 'choose this one too'],
      ['Shift arrows', 'choose from here to there'],
      ['W', 'choose the whole run'],
      ['/', 'find a name'],
      ['?', 'these keys'],
    ],
  },
  {
    title: 'Closer',
    keys: [
      ['Z', 'every pixel, and back'],
      ['1 to 4', 'how many side by side'],
      ['J', 'jump to the sharpest of similar frames'],
      ['I', 'what the camera wrote'],
      ['P', 'play or pause'],
      [', and .', 'one frame back, one on'],
      ['[ and ]', 'use from here, use to here'],
    ],
  },
];
