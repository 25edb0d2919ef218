/*
 * Who excludes whom, and in which order. Whoever holds one takes only such as stand below it.
 *
 *   lock        of              held by                                                     for as long as
 *   checking    a place         a check or a round: one looks at a place at a time           it looks
 *   filling     a place         whoever makes the copies that a place waits for              the place waits for copies
 *   adopting    an adoption     whoever takes folders into the log                           it lasts
 *   filing      an intake       whoever copies its card; not `place`: see below              it is filed
 *   card        an intake       clearing, restoring                                          it lasts
 *   chaining    the log         whoever chains it, and writes its head to the places         it is chained
 *   backing     the house       whoever backs it up                                      it is backed up
 *   rebuilding  the house       whoever rebuilds its logbook from a drive                it lasts
 *   place       a place         one of: carrying moves out · filling · writing credit and    a batch, a folder, a mend
 *                               lists beside files · emptying the tray · a look’s last word
 *   mending     0, until the    whoever promises other names, or says that the tray is       a transaction
 *               transaction     emptied
 *   epoch       0, until the    whoever finds the house in another database; shared:        a transaction
 *               transaction     whoever tells something
 *   rows        intake, filed   whoever changes them: see ARCHITECTURE, Locks and order      a transaction
 *
 * Several places are held in the order of their ids. What is promised in a transaction is looked at again by whoever carries
 * it out, under `place`: where it stands elsewhere by then, nothing is done. Filing gives new names only, and nobody else
 * writes under them: it needs no `place`. What it promised into a folder keeps that folder from being renamed as a whole.
 */

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
  /** What stands at a place is given other names, made, written beside, removed, or judged for good: one at a time. */
  place: 7308,
  receiving: 7309,
  /** Something is done to a card: it is cleared, or files are restored to it. Of the intake whose card it is. */
  card: 7310,
  /** The word list changes. */
  words: 7311,
  /** A place is looked at as a whole, or adopted from. */
  checking: 7312,
  adopting: 7313,
  /** Mends are promised (0). */
  mending: 7314,
  /** Something is announced that is to be sent: quotas and room are counted. */
  'handing in': 7315,
  /** The log is chained. */
  chaining: 7316,
  /** The house is backed up (0). */
  backing: 7318,
  /** The logbook is rebuilt from the records on the places (0). */
  rebuilding: 7319,
  /** The log goes on in another database (0): waits for every transaction that told something (migration OwnLife names the number). */
  epoch: 7317,
} as const;
export type LockKind = keyof typeof KINDS;
