/*
 * clearing: may a card be cleared? Clear it; put it back as it was.
 * In: the card as it is now, and the copies as they stand.
 * Out: the clearance with its reasons; an emptied card; a restored one.
 */
export { clearanceOf, clearAt, letGoAt, restoreAt } from './at-station.js';
export { pullingOfIntake } from './let-go.js';
export { restoreIntake } from './restore.js';
export { clearanceNow } from './clearance.js';
export { clearCard } from './clear-card.js';
export { isWorkBegun } from './store/card-work.js';
export { clearingWork } from './work.js';
