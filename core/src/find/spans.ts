import * as chrono from 'chrono-node';
import type { Span } from './question.js';

const MONTHS = 'january february march april may june july august september october november december'.split(' ');
/** Meteorological seasons of the northern half, by their first month (World Meteorological Organization, Guide to Climatological Practices). */
const SEASONS = [
  { name: 'spring', month: 3 },
  { name: 'summer', month: 6 },
  { name: 'autumn', month: 9 },
  { name: 'winter', month: 12 },
] as const;

const two = (n: number) => String(n).padStart(2, '0');
const dayOf = (year: number, month: number, day: number) => `${String(year).padStart(4, '0')}-${two(month)}-${two(day)}`;
/** Number of days of a month; month 13 is January of the next year. */
const lastDay = (year: number, month: number) => new Date(Date.UTC(year, month, 0)).getUTCDate();

/** Whole months. @param months how many, from this one on. */
function monthsFrom(year: number, month: number, months: number): Span {
  const last = month + months - 1;
  const [endYear, endMonth] = [year + Math.floor((last - 1) / 12), ((last - 1) % 12) + 1];
  return { from: dayOf(year, month, 1), to: dayOf(endYear, endMonth, lastDay(endYear, endMonth)) };
}

/** Years in which somebody may have photographed; other numbers are words. */
const isYear = (year: number) => year >= 1900 && year <= 2099;

/** A real day, or null. */
function dayAs(text: string): Span | null {
  const match = /^(\d{4})-(\d{2})-(\d{2})$/.exec(text);
  if (!match) return null;
  const [year, month, day] = match.slice(1).map(Number) as [number, number, number];
  if (!isYear(year) || month < 1 || month > 12 || day < 1 || day > lastDay(year, month)) return null;
  return { from: text, to: text };
}

/** `2024`, `2024-05` or `2024-05-18`; null for anything else. */
export function spanOfNumbers(text: string): Span | null {
  const match = /^(\d{4})(?:-(\d{2}))?$/.exec(text);
  if (!match) return dayAs(text);
  const year = Number(match[1]);
  if (!isYear(year)) return null;
  if (match[2] === undefined) return monthsFrom(year, 1, 12);
  const month = Number(match[2]);
  return month >= 1 && month <= 12 ? monthsFrom(year, month, 1) : null;
}

/** As `spanOfNumbers`, or two of them with `..` between: from the first to the last of all. */
export function spanWritten(text: string): Span | null {
  const parts = text.split('..');
  if (parts.length > 2) return null;
  const spans = parts.map(spanOfNumbers);
  const [first, last] = [spans[0], spans.at(-1)];
  return first && last && first.from <= last.to ? { from: first.from, to: last.to } : null;
}

/** The shortest text that `spanWritten` reads as this span. */
export function writtenSpan({ from, to }: Span): string {
  if (from === to) return from;
  for (const text of [from.slice(0, 4), from.slice(0, 7)]) {
    const span = spanOfNumbers(text);
    if (span?.from === from && span.to === to) return text;
  }
  return `${from}..${to}`;
}

const DAYS_MS = 86_400_000;
const plusDays = (day: string, days: number) =>
  new Date(Date.parse(`${day}T00:00:00Z`) + days * DAYS_MS).toISOString().slice(0, 10);

/** Spans that are named from today on. @param today `yyyy-MM-dd`. Weeks begin on Monday (ISO 8601). */
function relative(words: string, today: string): Span | null {
  const [year, month] = [Number(today.slice(0, 4)), Number(today.slice(5, 7))];
  const monday = plusDays(today, -((new Date(`${today}T00:00:00Z`).getUTCDay() + 6) % 7));
  const before = month === 1 ? monthsFrom(year - 1, 12, 1) : monthsFrom(year, month - 1, 1);
  const spans: Readonly<Record<string, Span>> = {
    today: { from: today, to: today },
    yesterday: { from: plusDays(today, -1), to: plusDays(today, -1) },
    'this week': { from: monday, to: plusDays(monday, 6) },
    'last week': { from: plusDays(monday, -7), to: plusDays(monday, -1) },
    'this month': monthsFrom(year, month, 1),
    'last month': before,
    'this year': monthsFrom(year, 1, 12),
    'last year': monthsFrom(year - 1, 1, 12),
  };
  return Object.hasOwn(spans, words) ? spans[words]! : null;
}

const SHORTEST_MONTH = 3;
const monthNamed = (word: string) =>
  word.length >= SHORTEST_MONTH ? MONTHS.findIndex((name) => name === word || name.slice(0, 3) === word) + 1 : 0;

/** A full date with its month in letters, as people write it. The year must be said: a day of no year is no span. */
function dateTyped(words: string): Span | null {
  if (!/^(\d{1,2}(st|nd|rd|th)? [a-z]{3,9},? \d{4}|[a-z]{3,9} \d{1,2}(st|nd|rd|th)?,? \d{4})$/.test(words)) return null;
  const [found] = chrono.en.GB.parse(words, new Date(Date.UTC(2000, 0, 1)));
  if (!found || found.text.length < words.length || !found.start.isCertain('day') || !found.start.isCertain('year')) return null;
  const at = (part: 'year' | 'month' | 'day') => found.start.get(part) ?? 0;
  return dayAs(dayOf(at('year'), at('month'), at('day')));
}

/**
 * What words that stand together mean as a span of days: `spring 2024`, `May 2024`, `18 May 2024`, `2024-05`, `last week`.
 * A winter is called after the year in which it begins. @param words lower case, parted by single spaces.
 */
export function spanTyped(words: string, today: string): Span | null {
  const numbers = spanWritten(words);
  if (numbers) return numbers;
  const pair = /^([a-z]+) (\d{4})$/.exec(words);
  if (pair && isYear(Number(pair[2]))) {
    const season = SEASONS.find(({ name }) => name === pair[1] || (pair[1] === 'fall' && name === 'autumn'));
    if (season) return monthsFrom(Number(pair[2]), season.month, 3);
    const month = monthNamed(pair[1]!);
    if (month) return monthsFrom(Number(pair[2]), month, 1);
  }
  return relative(words, today) ?? dateTyped(words);
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** A span as people say it: *spring 2024*, *May 2024*, *18 May 2024*, *from 3 May to 9 June 2024*. */
export function spanInWords(span: Span): string {
  const { from, to } = span;
  const said = (day: string) => `${Number(day.slice(8))} ${capital(MONTHS[Number(day.slice(5, 7)) - 1]!)} ${day.slice(0, 4)}`;
  if (from === to) return said(from);
  const written = writtenSpan(span);
  if (written.length === 4) return written;
  if (written.length === 7) return `${capital(MONTHS[Number(from.slice(5, 7)) - 1]!)} ${from.slice(0, 4)}`;
  const year = Number(from.slice(0, 4));
  const season = SEASONS.find(({ month }) => {
    const one = monthsFrom(year, month, 3);
    return one.from === from && one.to === to;
  });
  return season ? `${season.name} ${year}` : `${said(from)} to ${said(to)}`;
}
