/*
 * tending: the drive as it is.
 * In: what stands at the places, the logbook, the house rule, what others did by hand.
 * Out: what was found, what was adopted, and mends: shown, done, taken back.
 */
export { runAdoption } from './adopting.js';
export { askAdopt } from './asking-to-adopt.js';
export { carryOutAll } from './carrying.js';
export { askCheck, lookAt, placeHere, Rounds, runCheck } from './checking.js';
export { beginMend, planMend, takeBack } from './mending.js';
export { type BinnedFile, rebuildBin, rebuildNames } from './rebuilt.js';
export { findingsOf, treeOf, whereLeads } from './viewing.js';
export { tendingWork } from './work.js';
