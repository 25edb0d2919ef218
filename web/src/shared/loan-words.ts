import type { Loan } from '@tally/contract';

const day = (due: string) =>
  new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', timeZone: 'UTC' }).format(new Date(due));

/** `due 2 May`, `due today`, `overdue by 3 days`. */
export function loanWords({ due, standing, daysLate }: Pick<Loan, 'due' | 'standing' | 'daysLate'>): string {
  if (standing === 'overdue') return `overdue by ${daysLate} ${daysLate === 1 ? 'day' : 'days'}`;
  if (standing === 'due today') return 'due today';
  return due ? `due ${day(due)}` : 'lent, no day agreed';
}
