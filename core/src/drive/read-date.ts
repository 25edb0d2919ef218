import { dateTokens, wordsOf, type DatePart } from '../rule/date-pattern.js';

/** Parts of a day as names hold them; absent where they do not. */
export interface DayParts {
  readonly year?: number;
  readonly month?: number;
  readonly day?: number;
}

const PARTS: Readonly<Partial<Record<DatePart, keyof DayParts>>> = { year: 'year', month: 'month', day: 'day' };

/** Reads a text that a date pattern wrote. @returns null when it did not. */
export function readByPattern(text: string, pattern: string, language: string): DayParts | null {
  const tokens = dateTokens(pattern);
  if (!tokens) return null;
  const parts: { year?: number; month?: number; day?: number } = {};
  let rest = text;
  for (const token of tokens) {
    if (token.type === 'text') {
      if (!rest.startsWith(token.text)) return null;
      rest = rest.slice(token.text.length);
      continue;
    }
    const { letters, part } = token;
    const read = inWords(letters) ? readWord(rest, letters, language) : readDigits(rest, letters);
    if (!read) return null;
    rest = rest.slice(read.length);
    const name = PARTS[part];
    if (name) parts[name] = name === 'year' && letters.length === 2 ? 2000 + read.value : read.value;
  }
  return rest === '' ? parts : null;
}

const inWords = (letters: string) => /^(M{3,}|L{3,}|E+|a)$/.test(letters);

function readDigits(text: string, letters: string): { value: number; length: number } | null {
  const digits = letters.length === 1 ? /^\d{1,2}/ : new RegExp(`^\\d{${letters.length}}`);
  const found = digits.exec(text)?.[0];
  return found === undefined ? null : { value: Number(found), length: found.length };
}

function readWord(text: string, letters: string, language: string): { value: number; length: number } | null {
  const words = wordsOf(letters, language);
  const at = words.map((word, index) => ({ word, index })).filter(({ word }) => text.startsWith(word));
  const longest = at.sort((a, b) => b.word.length - a.word.length)[0];
  return longest ? { value: longest.index + 1, length: longest.word.length } : null;
}

/** `yyyy-MM-dd` of parts that name a day of the calendar; else null. */
export function dayOf({ year, month, day }: DayParts): string | null {
  if (year === undefined || month === undefined || day === undefined) return null;
  const text = `${String(year).padStart(4, '0')}-${String(month).padStart(2, '0')}-${String(day).padStart(2, '0')}`;
  const at = new Date(`${text}T00:00:00Z`);
  return Number.isNaN(at.getTime()) || at.toISOString().slice(0, 10) !== text ? null : text;
}

const YEAR = '((?:19|20)\\d\\d)';
/** Days as people write them in names, year first; two-digit years and days first only where nothing else can be meant. */
const HABITS: readonly { readonly test: RegExp; readonly order: readonly (keyof DayParts)[] }[] = [
  { test: new RegExp(`(?<!\\d)${YEAR}[-_. ](\\d\\d)[-_. ](\\d\\d)(?!\\d)`), order: ['year', 'month', 'day'] },
  { test: new RegExp(`(?<!\\d)${YEAR}(\\d\\d)(\\d\\d)(?!\\d)`), order: ['year', 'month', 'day'] },
  { test: new RegExp(`(?<!\\d)(\\d\\d?)[-_.](\\d\\d?)[-_.]${YEAR}(?!\\d)`), order: ['day', 'month', 'year'] },
];
const MONTH = new RegExp(`(?<!\\d)${YEAR}[-_. ](\\d\\d)(?!\\d)`);
const ONLY_YEAR = new RegExp(`^${YEAR}(?!\\d)`);

/** A day found in a name, and what stands beside it. */
export interface FoundDay extends DayParts {
  /** The name without it. */
  readonly rest: string;
}

/** Looks for a day, else a month, else a year in one name, however somebody wrote it. */
export function findDay(name: string): FoundDay | null {
  for (const { test, order } of HABITS) {
    const found = test.exec(name);
    if (!found) continue;
    const parts = Object.fromEntries(order.map((part, index) => [part, Number(found[index + 1])])) as DayParts;
    // A month of 25 is a day: some write the month first.
    const turned = (parts.month ?? 0) > 12 && (parts.day ?? 0) <= 12 ? { ...parts, month: parts.day!, day: parts.month! } : parts;
    if (dayOf(turned)) return { ...turned, rest: without(name, found) };
  }
  const month = MONTH.exec(name);
  if (month && Number(month[2]) >= 1 && Number(month[2]) <= 12)
    return { year: Number(month[1]), month: Number(month[2]), rest: without(name, month) };
  const year = ONLY_YEAR.exec(name);
  return year ? { year: Number(year[1]), rest: without(name, year) } : null;
}

const without = (name: string, found: RegExpExecArray): string =>
  `${name.slice(0, found.index)} ${name.slice(found.index + found[0].length)}`.trim();
