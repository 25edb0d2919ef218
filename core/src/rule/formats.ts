import slugify from '@sindresorhus/slugify';
import transliterate from '@sindresorhus/transliterate';
import { own } from '../lookup/index.js';
import { checkDatePattern, writeDate } from './date-pattern.js';
import type { FieldType } from './fields.js';

/**
 * Formats of fields. Dates: Unicode LDML patterns (UTS #35, Date Format Patterns). Numbers: LDML number patterns of
 * zeros, `0000` is at least four digits, more when the number needs them. Text: words joined by commas, applied from
 * left to right.
 */

const graphemes = new Intl.Segmenter('en', { granularity: 'grapheme' });
const lettersOf = (text: string) => Array.from(graphemes.segment(text), ({ segment }) => segment);

const WORDS: Readonly<Record<string, (text: string) => string>> = {
  lower: (text) => text.toLowerCase(),
  upper: (text) => text.toUpperCase(),
  title: (text) =>
    text.replace(/[\p{L}\p{N}][\p{L}\p{M}\p{N}'’]*/gu, (word) => word.replace(/^./u, (first) => first.toUpperCase())),
  slug,
  ascii,
};
const CUTS: Readonly<Record<string, (text: string, count: number) => string>> = {
  first: (text, count) => lettersOf(text).slice(0, count).join(''),
  last: (text, count) => lettersOf(text).slice(-count).join(''),
};
const CUT = /^(first|last)\((\d{1,3})\)$/;

/** The names of text formats, as they are offered. */
export const TEXT_FORMATS: readonly string[] = [...Object.keys(WORDS), 'first(3)', 'last(4)'];

export interface TextFormat {
  readonly word: string;
  readonly count: number | null;
}

/** `lower,first(3)` → its words; null for a word that does not exist. */
export function textFormats(format: string): TextFormat[] | null {
  const formats = format.split(',').map((part): TextFormat | null => {
    const word = part.trim();
    if (own(WORDS, word)) return { word, count: null };
    const cut = CUT.exec(word);
    return cut && Number(cut[2]) > 0 ? { word: cut[1]!, count: Number(cut[2]) } : null;
  });
  return formats.every((one) => one !== null) ? formats : null;
}

/** Lower case, ASCII, hyphens between words: `Reed planting day` → `reed-planting-day`. */
export function slug(text: string): string {
  return slugify(text, { decamelize: false });
}

/** Without letters outside ASCII: `Ærø` → `AEro`. What has no counterpart goes. */
export function ascii(text: string): string {
  // eslint-disable-next-line no-control-regex -- what is left over after transliteration
  return transliterate(text).replace(/[^\u0000-\u007f]/g, '');
}

/** Why a format cannot be used with a type of field, or null. */
export function checkFormat(type: FieldType, format: string): string | null {
  if (!format) return 'A format is missing after the colon.';
  if (type === 'number') return /^0{1,12}$/.test(format) ? null : 'A number is written with zeros, one for each digit: 0000.';
  if (type === 'date') return checkDatePattern(format);
  if (textFormats(format)) return null;
  const unknown = format.split(',').find((word) => textFormats(word) === null) ?? format;
  return `Text can be written as ${TEXT_FORMATS.join(', ')}, not as "${unknown.trim()}".`;
}

/** Writes a field's value; '' when it has none. */
export function writeValue(type: FieldType, value: string | number | null, format: string | null, language = 'en'): string {
  if (value === null || value === '') return '';
  if (type === 'date') return writeDate(String(value), format ?? 'yyyy-MM-dd', language);
  if (type === 'number') return String(value).padStart(format?.length ?? 1, '0');
  if (!format) return String(value);
  return (textFormats(format) ?? []).reduce(
    (text, { word, count }) => (count === null ? WORDS[word]!(text) : CUTS[word]!(text, count)),
    String(value),
  );
}
