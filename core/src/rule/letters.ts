import { ascii, textFormats } from './formats.js';
import type { RuleSettings } from './settings.js';

/** Sorts of characters, one bit each. `/` is none of them: it never stands in a value. */
export const UPPER = 1;
export const LOWER = 2;
export const DIGIT = 4;
export const HYPHEN = 8;
export const UNDERSCORE = 16;
export const SPACE = 32;
export const PUNCTUATION = 64;
export const BEYOND_ASCII = 128;
const ALL = 255;

/** What a value can consist of. `length` is set where every value is that long (UTF-16 units). */
export interface Letters {
  readonly set: number;
  readonly min: number;
  readonly max: number;
  readonly length?: number;
}

export const DIGITS: Letters = { set: DIGIT, min: 1, max: 15 };
export const CODES: Letters = { set: UPPER | DIGIT, min: 2, max: 4 };
export const SLUGS: Letters = { set: LOWER | DIGIT | HYPHEN, min: 1, max: 60 };
export const FREE: Letters = { set: ALL, min: 1, max: 255 };

/** The sort of one UTF-16 unit. */
export function sortOf(unit: string): number {
  const code = unit.charCodeAt(0);
  if (code >= 48 && code <= 57) return DIGIT;
  if (code >= 65 && code <= 90) return UPPER;
  if (code >= 97 && code <= 122) return LOWER;
  if (unit === '-') return HYPHEN;
  if (unit === '_') return UNDERSCORE;
  if (unit === ' ') return SPACE;
  return code < 128 ? PUNCTUATION : BEYOND_ASCII;
}

export const sortsIn = (text: string): number => text.split('').reduce((set, unit) => set | sortOf(unit), 0);

/** What a value consists of once its format and the house's letters have been applied: never too narrow. */
export function lettersAfter(letters: Letters, format: string | null, settings: RuleSettings): Letters {
  let { set, min, max, length } = letters;
  const beyond = () => set & BEYOND_ASCII;
  for (const { word, count } of format === null ? [] : (textFormats(format) ?? [])) {
    if (word === 'lower') set = lowered(set);
    else if (word === 'upper') set = uppered(set);
    else if (word === 'title') set = beyond() || set & LOWER ? set | UPPER : set;
    else if (word === 'ascii') set = narrowed(set);
    else if (word === 'slug') {
      // Only what is a slug already keeps its length.
      if (set & ~(LOWER | DIGIT)) [min, max, length] = [1, 255, undefined];
      set = LOWER | DIGIT | HYPHEN;
    } else if (count !== null) {
      if (!beyond()) [min, max, length] = [Math.min(min, count), Math.min(max, count), length && Math.min(length, count)];
    }
    if (beyond() && length === undefined) [min, max] = [1, 255];
  }
  if (settings.letters.ascii) set = narrowed(set);
  if (settings.letters.case === 'lower') set = lowered(set);
  if (settings.letters.case === 'upper') set = uppered(set);
  if (set & SPACE && settings.letters.spaces !== 'keep') {
    set &= ~SPACE;
    if (settings.letters.spaces === 'hyphen') set |= HYPHEN;
    if (settings.letters.spaces === 'underscore') set |= UNDERSCORE;
  }
  return length === undefined ? { set, min, max } : { set, min, max, length };
}

// A letter beyond ASCII may have its other case within it (K for Kelvin → k), and one letter may become two (ß → SS).
const lowered = (set: number) => (set & (UPPER | BEYOND_ASCII) ? (set & ~UPPER) | LOWER : set);
const uppered = (set: number) => (set & (LOWER | BEYOND_ASCII) ? (set & ~LOWER) | UPPER : set);
const narrowed = (set: number) => (set & BEYOND_ASCII ? ALL & ~BEYOND_ASCII : set);

/** Applies the house's letters to a text of a name: a value or what stands between values. */
export function houseLetters(text: string, { letters }: RuleSettings): string {
  let out = letters.ascii ? ascii(text) : text;
  if (letters.case === 'lower') out = out.toLowerCase();
  if (letters.case === 'upper') out = out.toUpperCase();
  if (letters.spaces !== 'keep') out = out.replace(/\s+/g, { hyphen: '-', underscore: '_', drop: '' }[letters.spaces]);
  return out;
}
