import { dateTokens, wordsOf, type DatePart } from './date-pattern.js';
import { fieldNamed, type FieldName } from './fields.js';
import { mendValue, withoutIllegal } from './legal-name.js';
import { houseLetters, lettersAfter, sortsIn, DIGITS, type Letters } from './letters.js';
import type { Piece } from './line.js';
import type { RuleSettings } from './settings.js';

/**
 * A line taken apart as far as a name can be: text, fields, the parts of dates. Atoms that belong to one field share
 * its `piece`, so that a date is read back as one text.
 */
export type Atom =
  | { readonly type: 'text'; readonly text: string; readonly piece: Piece }
  | {
      readonly type: 'value';
      readonly name: FieldName;
      readonly part: DatePart | null;
      /** Letters of the date pattern, such as `MM`. */
      readonly pattern: string | null;
      readonly letters: Letters;
      /** Every text it can be, where there are few. */
      readonly words: readonly string[] | null;
      readonly piece: Extract<Piece, { type: 'field' }>;
    }
  | { readonly type: 'optional'; readonly atoms: readonly Atom[]; readonly piece: Piece }
  | { readonly type: 'folder'; readonly piece: Piece };

export type ValueAtom = Extract<Atom, { type: 'value' }>;

/** Whole numbers that a part of a date can be. */
const RANGE: Readonly<Partial<Record<DatePart, readonly [number, number]>>> = {
  quarter: [1, 4],
  month: [1, 12],
  week: [1, 53],
  day: [1, 31],
  'day of year': [1, 366],
  hour: [0, 24],
  minute: [0, 59],
  second: [0, 59],
};

export function atomsOf(pieces: readonly Piece[], settings: RuleSettings): Atom[] {
  return pieces.flatMap((piece): Atom[] => {
    if (piece.type === 'text') return textAtoms(piece, settings);
    if (piece.type === 'optional') return [{ type: 'optional', atoms: atomsOf(piece.pieces, settings), piece }];
    const field = fieldNamed(piece.name)!;
    if (field.type === 'date') return dateAtoms(piece, settings);
    if (field.type === 'number') {
      const width = piece.format?.length ?? 1;
      return [value(piece, { letters: { ...DIGITS, min: width }, pattern: null, part: null, words: null })];
    }
    const own = typeof field.letters === 'function' ? field.letters(settings) : field.letters;
    const letters = orMissing(lettersAfter(own, piece.format, settings), piece, settings);
    return [value(piece, { letters, pattern: null, part: null, words: null })];
  });
}

/** The house's word for what nobody says, as names hold it. */
export const missingWord = (settings: RuleSettings): string => mendValue(houseLetters(settings.missing, settings));

/** Where a value may be missing, the house's word can stand in its place. */
function orMissing(letters: Letters, piece: Extract<Piece, { type: 'field' }>, settings: RuleSettings): Letters {
  const mayVanish = settings.letters.ascii || /slug|ascii/.test(piece.format ?? '');
  if (fieldNamed(piece.name)!.always && !mayVanish) return letters;
  const word = missingWord(settings);
  const { set, min, max, length } = letters;
  const [shortest, longest] = length === undefined ? [min, max] : [length, length];
  return { set: set | sortsIn(word), min: Math.min(shortest, word.length), max: Math.max(longest, word.length) };
}

const value = (
  piece: Extract<Piece, { type: 'field' }>,
  rest: Pick<ValueAtom, 'letters' | 'part' | 'pattern' | 'words'>,
): ValueAtom => ({ type: 'value', name: piece.name, piece, ...rest });

function textAtoms(piece: Extract<Piece, { type: 'text' }>, settings: RuleSettings): Atom[] {
  const atoms: Atom[] = [];
  houseLetters(piece.text, settings)
    .split('/')
    .forEach((text, index) => {
      if (index) atoms.push({ type: 'folder', piece });
      const legal = withoutIllegal(text);
      if (legal) atoms.push({ type: 'text', text: legal, piece });
    });
  return atoms;
}

function dateAtoms(piece: Extract<Piece, { type: 'field' }>, settings: RuleSettings): Atom[] {
  const tokens = dateTokens(piece.format ?? 'yyyy-MM-dd') ?? [];
  return tokens.flatMap((token, index): Atom[] => {
    const [first, last] = [index === 0, index === tokens.length - 1];
    if (token.type === 'text') {
      let text = withoutIllegal(houseLetters(token.text, settings));
      if (first) text = text.replace(/^[.\s]+/, '');
      if (last) text = text.replace(/[.\s]+$/, '');
      return text ? [{ type: 'text', text, piece }] : [];
    }
    const { part, letters: pattern } = token;
    if (isNumeric(pattern)) return [value(piece, { part, pattern, letters: numberLetters(pattern), words: null })];
    const written = wordsOf(pattern, settings.language).map((word) => houseLetters(word, settings));
    const words = [...new Set(written.flatMap((word) => [withoutIllegal(word), mendValue(word)]))];
    const lengths = words.map(({ length }) => length);
    const letters = { set: sortsIn(words.join('')), min: Math.min(...lengths), max: Math.max(...lengths) };
    return [value(piece, { part, pattern, letters, words })];
  });
}

const isNumeric = (pattern: string) => !['E', 'a'].includes(pattern[0]!) && (pattern.length <= 2 || /^[yuYD]/.test(pattern));

function numberLetters(pattern: string): Letters {
  const letter = pattern[0]!;
  const widest = 'yuY'.includes(letter) ? 4 : letter === 'D' ? 3 : 'Qq'.includes(letter) ? pattern.length : 2;
  const exact = pattern === 'yy' || pattern === 'YY' ? 2 : widest;
  return { ...DIGITS, min: pattern.length, max: Math.max(exact, pattern.length) };
}

/** Can this atom have been written as this text? */
export function couldBe(atom: ValueAtom, text: string): boolean {
  if (atom.words) return atom.words.includes(text);
  const { set, min, max, length } = atom.letters;
  if (length === undefined ? text.length < min || text.length > max : text.length !== length) return false;
  if (sortsIn(text) & ~set) return false;
  if (atom.part === null) return atom.name !== 'n' || text.length === min || !text.startsWith('0');
  const range = RANGE[atom.part];
  return !range || (Number(text) >= range[0] && Number(text) <= range[1]);
}

/** Is every text of this atom equally long? */
export const isFixed = ({ letters, words }: ValueAtom): boolean =>
  words === null && (letters.length !== undefined || letters.min === letters.max);
