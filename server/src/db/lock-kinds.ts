/**
 * Something only one process may do at a time: the first half of PostgreSQL's advisory lock key (two 32-bit integers; a
 * key space of its own, PostgreSQL 15 manual, section 13.3.5). Each kind of thing has one number here and nowhere else.
 */
export const KINDS = {
  migrating: 7301,
  filing: 7302,
  reading: 7303,
  watching: 7304,
  filling: 7305,
  labels: 7306,
  rules: 7307,
  beside: 7308,
  receiving: 7309,
  /** Something is done to a card: it is cleared, or files are restored to it. Of the intake whose card it is. */
  card: 7310,
  /** The word list changes. */
  words: 7311,
  /** A place is looked at as a whole, or adopted from. */
  checking: 7312,
  adopting: 7313,
  /** Files of a place get other names; as a whole (0): mends are promised. */
  mending: 7314,
  /** Something is announced that is to be sent: quotas and room are counted. */
  'handing in': 7315,
  /** The log is chained. */
  chaining: 7316,
} as const;
export type LockKind = keyof typeof KINDS;
