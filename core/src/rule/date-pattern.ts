import { UTCDate } from '@date-fns/utc';
import type { Locale } from 'date-fns';
import { format } from 'date-fns/format';
// One by one: the whole list of languages is six hundred files, and every start of the command line would read them.
import { da } from 'date-fns/locale/da';
import { de } from 'date-fns/locale/de';
import { enGB } from 'date-fns/locale/en-GB';
import { es } from 'date-fns/locale/es';
import { fi } from 'date-fns/locale/fi';
import { fr } from 'date-fns/locale/fr';
import { it } from 'date-fns/locale/it';
import { nb } from 'date-fns/locale/nb';
import { nl } from 'date-fns/locale/nl';
import { pl } from 'date-fns/locale/pl';
import { pt } from 'date-fns/locale/pt';
import { sv } from 'date-fns/locale/sv';
import { wallClockMs, type WallClock } from '../capture/index.js';
import { own } from '../lookup/index.js';

/**
 * Date patterns of Unicode LDML (UTS #35 part 4, Date Format Patterns), as far as a local time without a zone goes.
 * Weeks are ISO 8601 weeks everywhere (Monday first, the first week holds 4 January), whatever the language:
 * a week number that depends on the language of the month names would be a trap.
 */

/** Languages of month and day names. */
export const LANGUAGES: Readonly<Record<string, Locale>> = { en: enGB, da, de, es, fi, fr, it, nb, nl, pl, pt, sv };

/** What a letter of the pattern tells. */
export type DatePart =
  'year' | 'week year' | 'quarter' | 'month' | 'week' | 'day' | 'day of year' | 'weekday' | 'half' | 'hour' | 'minute' | 'second';

const LETTERS: Readonly<Record<string, { part: DatePart; max: number }>> = {
  y: { part: 'year', max: 4 },
  u: { part: 'year', max: 4 },
  Y: { part: 'week year', max: 4 },
  Q: { part: 'quarter', max: 4 },
  q: { part: 'quarter', max: 4 },
  M: { part: 'month', max: 4 },
  L: { part: 'month', max: 4 },
  w: { part: 'week', max: 2 },
  d: { part: 'day', max: 2 },
  D: { part: 'day of year', max: 3 },
  E: { part: 'weekday', max: 4 },
  a: { part: 'half', max: 1 },
  h: { part: 'hour', max: 2 },
  H: { part: 'hour', max: 2 },
  K: { part: 'hour', max: 2 },
  k: { part: 'hour', max: 2 },
  m: { part: 'minute', max: 2 },
  s: { part: 'second', max: 2 },
};

export type DateToken =
  { readonly type: 'text'; readonly text: string } | { readonly type: 'part'; readonly part: DatePart; readonly letters: string };

const TOKEN = /''|'((?:[^']|'')*)'|([A-Za-z])\2*|[^A-Za-z']+/gy;

/** A pattern's letters and text; null when a quotation mark is never closed. Text between quotation marks is itself. */
export function dateTokens(pattern: string): DateToken[] | null {
  const tokens: DateToken[] = [];
  TOKEN.lastIndex = 0;
  while (TOKEN.lastIndex < pattern.length) {
    const match = TOKEN.exec(pattern);
    if (!match) return null;
    const [whole, quoted, letter] = match;
    if (whole === "''") tokens.push({ type: 'text', text: "'" });
    else if (quoted !== undefined) tokens.push({ type: 'text', text: quoted.replaceAll("''", "'") });
    else if (letter === undefined) tokens.push({ type: 'text', text: whole });
    else tokens.push({ type: 'part', part: LETTERS[letter]?.part ?? 'year', letters: whole });
  }
  return tokens;
}

/** Why a text is not a date pattern, or null. */
export function checkDatePattern(pattern: string): string | null {
  const tokens = dateTokens(pattern);
  if (tokens === null) return 'A quotation mark in a date pattern is never closed.';
  for (const token of tokens) {
    if (token.type === 'text') continue;
    const known = LETTERS[token.letters[0]!];
    if (!known || token.letters.length > known.max || token.letters === 'yyy' || token.letters === 'YYY') {
      return `"${token.letters}" is not part of a date pattern. Use letters such as yyyy, MM, dd, HH, mm, ss (Unicode LDML), and quotation marks around words.`;
    }
  }
  return tokens.some(({ type }) => type === 'part') ? null : 'This pattern holds no part of a date, such as yyyy or MM.';
}

const DAY_ONLY = /^[^hHKkmsa]*$/;
const memo = new Map<string, string>();

/** Writes a wall-clock time by a pattern that `checkDatePattern` let pass. */
export function writeDate(local: WallClock, pattern: string, language: string): string {
  // Patterns without a time of day give one text a day: worth remembering, a card has few days and many items.
  const key = DAY_ONLY.test(pattern) ? `${local.slice(0, 10)} ${language} ${pattern}` : null;
  const known = key === null ? undefined : memo.get(key);
  if (known !== undefined) return known;
  const text = format(new UTCDate(wallClockMs(local)), pattern, {
    locale: own(LANGUAGES, language) ?? enGB,
    weekStartsOn: 1,
    firstWeekContainsDate: 4,
    useAdditionalDayOfYearTokens: true,
    useAdditionalWeekYearTokens: true,
  });
  if (key !== null) {
    if (memo.size > 5_000) memo.clear();
    memo.set(key, text);
  }
  return text;
}

/** Every text that a part written in words can have: the months, the days, the quarters, the halves of the day. */
export function wordsOf(letters: string, language: string): readonly string[] {
  const key = `${language} ${letters}`;
  const known = wordsMemo.get(key) ?? allWords(letters, language);
  wordsMemo.set(key, known);
  return known;
}

const wordsMemo = new Map<string, readonly string[]>();

function allWords(letters: string, language: string): string[] {
  const hours = LETTERS[letters[0]!]?.part === 'half' ? [1, 13] : [12];
  const days = Array.from({ length: 12 }, (_, month) => [1, 2, 3, 4, 5, 6, 7].map((day) => [month, day] as const)).flat();
  const two = (n: number) => String(n).padStart(2, '0');
  const texts = days.flatMap(([month, day]) =>
    hours.map((hour) => writeDate(`2026-${two(month + 1)}-${two(day)}T${two(hour)}:00:00`, letters, language)),
  );
  return [...new Set(texts)];
}
