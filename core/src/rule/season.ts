import type { WallClock } from '../capture/index.js';
import { own } from '../lookup/index.js';

export interface SeasonPattern {
  readonly startMonth: number;
  readonly label: string;
}

const TOKEN = /'((?:[^']|'')*)'|yyyy|yy|YYYY|YY|[^A-Za-z']/gy;

/** Why a season's label cannot be used, or null. */
export function checkSeason({ startMonth, label }: SeasonPattern): string | null {
  if (!Number.isInteger(startMonth) || startMonth < 1 || startMonth > 12) return 'A season begins in a month from 1 to 12.';
  const read = tokensOf(label);
  if (read === null)
    return 'A season is written with yyyy or yy (first year), YYYY or YY (last year) and text in quotation marks.';
  if (!read.some((token) => /^y/i.test(token))) return 'A season without a year would be the same every year.';
  return null;
}

/** The season of a day: `2026-2027` for 18 April 2027 when seasons begin in September. */
export function seasonOf(local: WallClock, pattern: SeasonPattern): string {
  const [year, month] = [Number(local.slice(0, 4)), Number(local.slice(5, 7))];
  const first = month >= pattern.startMonth ? year : year - 1;
  // A season that begins in January ends in its own year.
  const last = pattern.startMonth === 1 ? first : first + 1;
  const four = (n: number) => String(n).padStart(4, '0');
  const words: Record<string, string> = {
    yyyy: four(first),
    yy: four(first).slice(-2),
    YYYY: four(last),
    YY: four(last).slice(-2),
  };
  return (tokensOf(pattern.label) ?? []).map((token) => own(words, token) ?? unquoted(token)).join('');
}

/** Does the label begin with all four digits of a year, so that seasons sort as they follow one another? */
export const seasonSorts = (label: string): boolean => /^('([^']|'')*'|[^A-Za-z'])*(yyyy|YYYY)/.test(label);

function tokensOf(label: string): string[] | null {
  const tokens: string[] = [];
  TOKEN.lastIndex = 0;
  while (TOKEN.lastIndex < label.length) {
    const match = TOKEN.exec(label);
    if (!match) return null;
    tokens.push(match[0]);
  }
  return tokens;
}

function unquoted(token: string): string {
  if (!token.startsWith("'")) return token;
  return token === "''" ? "'" : token.slice(1, -1).replaceAll("''", "'");
}
