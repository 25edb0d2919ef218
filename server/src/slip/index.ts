/*
 * slip: what is said of a card, and the items and slip as a plan needs them.
 * In: the words of a slip.
 * Out: the slip as it stands; material for planning and for trying rules.
 */
export { creditCommand, CREDIT_SETS, creditItemsMeant } from './credit-command.js';
export { changeCredit, intakeCredit } from './credit.js';
export { recordedCredit } from './recorded.js';
export { answerByHabit } from './habits.js';
export { planItemsOf, planMaterial, type ReadLine, whyLeft } from './material.js';
export { type ItemSays, rebuildSayings } from './store/rebuilt.js';
export { UNKNOWN_NOTE, changeSlip } from './slip.js';
