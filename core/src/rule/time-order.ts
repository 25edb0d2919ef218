import type { Atom } from './atoms.js';
import type { DatePart } from './date-pattern.js';
import { seasonSorts } from './season.js';
import type { RuleSettings } from './settings.js';

const FROM_LARGE: readonly DatePart[] = ['year', 'month', 'day', 'hour', 'minute', 'second'];

/** How far names follow the capture time: parts that are fixed from the year down, and whether anything else came in between. */
export interface Progress {
  /** 0 nothing, 1 the year, 3 the day, 6 the second. */
  readonly fixed: number;
  readonly blocked: boolean;
}

/**
 * Follows atoms from the left: names sort by capture time as long as its parts come from large to small, each in
 * digits of one width. Parts that are fixed already, and text, change nothing; the first thing that does ends it.
 * @param constant fields that are the same for all names compared, such as those that the folder holds.
 */
export function followTime(
  atoms: readonly Atom[],
  settings: RuleSettings,
  from: Progress,
  constant: ReadonlySet<string> = new Set(),
): Progress {
  let { fixed } = from;
  if (from.blocked) return from;
  for (const [index, atom] of atoms.entries()) {
    if (atom.type === 'text' || atom.type === 'folder') continue;
    if (atom.type === 'optional') return { fixed, blocked: true };
    if (constant.has(keyOf(atom.name, atom.piece.format))) continue;
    if (atom.name === 'season') {
      if (fixed >= 2 || (fixed >= 1 && settings.season.startMonth === 1)) continue;
      if (!seasonSorts(settings.season.label) || fixed > 0) return { fixed, blocked: true };
      continue;
    }
    if (atom.name === 'quarter') {
      if (fixed < 1) return { fixed, blocked: true };
      continue;
    }
    if (atom.name !== 'captured' || !atom.part) return { fixed, blocked: true };
    const rank = FROM_LARGE.indexOf(atom.part);
    if (rank >= 0 && rank < fixed) continue;
    if (atom.part === 'quarter' && fixed >= 1) continue;
    if (atom.part === 'weekday' && fixed >= 3) continue;
    if (atom.part === 'week year' && atom.pattern === 'YYYY' && fixed === 0 && nextPart(atoms, index) === 'week') continue;
    if (atom.part === 'week' && atom.pattern === 'ww' && fixed === 0 && previousPart(atoms, index) === 'week year') continue;
    if (atom.part === 'day of year' && atom.pattern === 'DDD' && fixed === 1) {
      fixed = 3;
      continue;
    }
    if (rank !== fixed || !sortsAsDigits(atom.pattern!)) return { fixed, blocked: true };
    fixed++;
  }
  return { fixed, blocked: false };
}

export const keyOf = (name: string, format: string | null): string => `${name}:${format ?? ''}`;

const sortsAsDigits = (pattern: string) => /^(yyyy|uuuu|MM|LL|dd|HH|mm|ss)$/.test(pattern);

const nextPart = (atoms: readonly Atom[], at: number) => atoms.slice(at + 1).find((atom) => atom.type === 'value')?.part ?? null;
const previousPart = (atoms: readonly Atom[], at: number) =>
  atoms.slice(0, at).findLast((atom) => atom.type === 'value')?.part ?? null;
