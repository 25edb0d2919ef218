/*
 * counter: trays, giving back, lending, labels, and the desk that shows them.
 * In: moves, scans and loans that somebody asks for.
 * Out: cards in their trays, who has what, printed labels.
 */
export { labelsFor } from './labels.js';
export { lend, makeThing, takeBack } from './lending.js';
export { deskNow } from './overview.js';
export { cameBack, giveBack, notGivenBack, sayLabel, scanLabel } from './trays.js';
