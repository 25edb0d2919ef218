/*
 * trays: where does a card lie, where may it go, and who has what is lent?
 * In: the tray a card is in, how far its intake is, when it is due.
 * Out: what is to be done next, why a move is refused, how a loan stands, whether a card was forgotten.
 * Facts: an intake happens the same day (common practice, no source).
 */
export * from './moves.js';
export * from './loans.js';
export * from './next-step.js';
export { mondayOf, weeksOf, type Lasting, type Tape, type Week } from './weeks.js';
