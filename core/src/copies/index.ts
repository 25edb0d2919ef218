/*
 * copies: is it safe?
 * In: states of copies at places, and which places are required.
 * Out: the state of an intake, the notches of the stick, the clearance as far as the copies tell.
 * Practice followed: both required places must tally before a card is cleared (common practice, no source).
 */
export * from './states.js';
export * from './identity.js';
export * from './clearance.js';
export * from './holding.js';
