import { format, isSameISOWeek, parseISO } from 'date-fns';

/** A backup that stands somewhere. */
export interface BackupKept {
  readonly name: string;
  /** When it was made by the house's clock: `2026-04-21T02:00:00`. */
  readonly local: string;
}

/** Of how many days, weeks (ISO 8601, from Monday) and months the newest is kept. */
export interface KeepBackups {
  readonly days: number;
  readonly weeks: number;
  readonly months: number;
}

/**
 * Backups that may go: those that are not the newest of one of the last days, weeks or months in which any was made. A house
 * that was closed for a year keeps what it had. The newest stays always. @returns names, the oldest first
 */
export function toThin(backups: readonly BackupKept[], { days, weeks, months }: KeepBackups): string[] {
  const newest = [...backups].sort((a, b) => (a.local < b.local ? 1 : a.local > b.local ? -1 : a.name < b.name ? 1 : -1));
  const kept = new Set(newest.slice(0, 1));
  for (const [most, pattern] of [
    [days, 'yyyy-MM-dd'],
    [weeks, "RRRR-'W'II"],
    [months, 'yyyy-MM'],
  ] as const) {
    const firstOf = new Map<string, BackupKept>();
    for (const one of newest) {
      const when = format(parseISO(one.local), pattern);
      if (!firstOf.has(when)) firstOf.set(when, one);
    }
    for (const one of [...firstOf.values()].slice(0, most)) kept.add(one);
  }
  return newest.flatMap((one) => (kept.has(one) ? [] : one.name)).reverse();
}

/** Is a moment of another week (ISO 8601, from Monday) than another one? Both by the house's clock. */
export const isOtherWeek = (one: string, other: string): boolean => !isSameISOWeek(parseISO(one), parseISO(other));
