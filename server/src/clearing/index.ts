/*
 * clearing: may a card be cleared? Clear it; put it back as it was.
 * In: the card as it is now, and the copies as they stand.
 * Out: the clearance with its reasons; an emptied card; a restored one.
 */
export { clearanceNow, clearCard } from './clearance.js';
