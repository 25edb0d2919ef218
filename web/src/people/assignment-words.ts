import type { Assignment } from '@tally/contract';

const DAY = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', day: 'numeric', month: 'short', year: 'numeric' });

/** `18 Apr 2026`, `18–20 Apr 2026`. */
export const daysOf = ({ from, to }: Pick<Assignment, 'from' | 'to'>): string =>
  from === to ? DAY.format(new Date(from)) : DAY.formatRange(new Date(from), new Date(to));

/** Who has not handed in, and how many cards are missing: two things. */
export function missingOf({ expected, receivedCards, expectedCards }: Assignment): string {
  const names = expected.filter((person) => !person.handedIn).map((person) => person.name);
  const cards = Math.max(0, expectedCards - receivedCards);
  const missing = cards ? `${cards} ${cards === 1 ? 'card' : 'cards'}` : expectedCards ? 'all in' : '';
  return [missing, names.join(', ')].filter(Boolean).join(': ');
}
