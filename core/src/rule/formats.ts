import { UTCDate } from '@date-fns/utc';
import slugify from '@sindresorhus/slugify';
import { format as formatDate } from 'date-fns';
import { wallClockMs, type WallClock } from '../capture/index.js';
import type { FieldType } from './fields.js';

/**
 * Formats of fields. Dates: Unicode LDML patterns (UTS #35, Date Format Patterns) as date-fns reads them.
 * Numbers: LDML zeros, `0000` is at least four digits. Text: words joined by commas, applied from left to right.
 */

const TEXT_FORMATS: Readonly<Record<string, (text: string) => string>> = {
  lower: (text) => text.toLowerCase(),
  upper: (text) => text.toUpperCase(),
  slug: (text) => slug(text),
};

/** Lower case, ASCII, hyphens between words: `Reed planting day` → `reed-planting-day`. */
export function slug(text: string): string {
  return slugify(text, { decamelize: false });
}

/** Why a format cannot be used with a type of field, or null. */
export function checkFormat(type: FieldType, format: string): string | null {
  if (!format) return 'A format is missing after the colon.';
  if (type === 'number') return /^0+$/.test(format) ? null : 'A number is written with zeros, one for each digit: 0000.';
  if (type === 'text') {
    const unknown = format.split(',').find((word) => !(word.trim() in TEXT_FORMATS));
    return unknown === undefined
      ? null
      : `Text can be written as ${Object.keys(TEXT_FORMATS).join(', ')}, not as "${unknown.trim()}".`;
  }
  if ((format.split("'").length - 1) % 2) return 'A quotation mark in a date pattern is never closed.';
  try {
    formatDate(new UTCDate(0), format);
    return null;
  } catch {
    return `"${format}" is not a date pattern. Use letters such as yyyy, MM, dd, HH, mm, ss (Unicode LDML).`;
  }
}

const DAY_ONLY = /^[yuMLdEQqwIR\W_]*$/;
const dateMemo = new Map<string, string>();

function writeDate(local: WallClock, pattern: string): string {
  // Patterns without a time of day give one text a day: worth remembering, a card has few days and many items.
  if (!DAY_ONLY.test(pattern)) return formatDate(new UTCDate(wallClockMs(local)), pattern);
  const key = `${local.slice(0, 10)} ${pattern}`;
  const known = dateMemo.get(key);
  if (known !== undefined) return known;
  const text = formatDate(new UTCDate(wallClockMs(local)), pattern);
  if (dateMemo.size > 5_000) dateMemo.clear();
  dateMemo.set(key, text);
  return text;
}

/** Writes a field's value; '' when it has none. */
export function writeValue(type: FieldType, value: string | number | null, format: string | null): string {
  if (value === null || value === '') return '';
  if (type === 'date') return writeDate(String(value), format ?? 'yyyy-MM-dd');
  if (type === 'number') return String(value).padStart(format?.length ?? 1, '0');
  if (!format) return String(value);
  return format.split(',').reduce((text, word) => TEXT_FORMATS[word.trim()]!(text), String(value));
}
