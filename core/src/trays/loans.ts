import { addDays } from 'date-fns/addDays';
import { differenceInCalendarDays } from 'date-fns/differenceInCalendarDays';
import { formatISO } from 'date-fns/formatISO';
import { parseISO } from 'date-fns/parseISO';

export type LoanStanding = 'out' | 'due today' | 'overdue';

/**
 * How a loan stands on a day. It is overdue from the day after the one it was due.
 * @param due and `today` are days of the house, yyyy-MM-dd; a loan without one is never overdue.
 */
export function loanStanding(due: string | null, today: string): { readonly standing: LoanStanding; readonly daysLate: number } {
  if (due === null) return { standing: 'out', daysLate: 0 };
  const late = differenceInCalendarDays(parseISO(today), parseISO(due));
  return { standing: late > 0 ? 'overdue' : late === 0 ? 'due today' : 'out', daysLate: Math.max(0, late) };
}

/** When a thing is due that is lent on a day for so many days. @returns yyyy-MM-dd. */
export function dueAfter(today: string, days: number): string {
  return formatISO(addDays(parseISO(today), days), { representation: 'date' });
}

/** What was handed in is read the same day; after a whole day it counts as forgotten. */
export const FORGOTTEN_AFTER_MS = 86_400_000;

/** For how many whole days a card has lain in a tray without being begun; 0 while it is not forgotten. */
export function daysForgotten(since: Date, now: Date): number {
  return Math.max(0, Math.floor((now.getTime() - since.getTime()) / FORGOTTEN_AFTER_MS));
}
