import { foldText } from '../words/index.js';

/**
 * Texts as they are looked through: their words folded, one space before and after each, a line for each text, so that no
 * sequence of words goes over from one to the next.
 */
export const searchable = (...texts: readonly string[]): string =>
  texts
    .map((text) => tokensIn(text).join(' '))
    .filter(Boolean)
    .map((words) => ` ${words} `)
    .join('\n');

/** Words of a text: runs of letters and digits, folded. */
export const tokensIn = (text: string): string[] =>
  // Nearly every name is of plain letters: these need no folding.
  (PLAIN.test(text) ? text.toLowerCase().match(/[a-z0-9]+/g) : foldText(text).match(/[\p{L}\p{N}]+/gu)) ?? [];

const PLAIN = /^[ -~]*$/;

/** What is looked for: words that follow one another, the last of them whole or only begun. */
export interface Needle {
  readonly words: readonly string[];
  /** What must stand in a searchable text. */
  readonly text: string;
  readonly whole: boolean;
}

/** @returns null when there is nothing in it that can be looked for: a text of marks alone. */
export function needleOf(typed: string, whole: boolean): Needle | null {
  const words = tokensIn(typed);
  return words.length ? { words, text: ` ${words.join(' ')}${whole ? ' ' : ''}`, whole } : null;
}
