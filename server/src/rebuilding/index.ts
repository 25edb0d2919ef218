/*
 * rebuilding: the logbook put together again from the drive.
 * In: records and house records on the places.
 * Out: people, assignments, words, intakes, items, copies, credit and events, as those tell them. Each room writes its own.
 */
export { rebuildingWork } from './work.js';
export { sayReport } from './commands.js';
export { takeInSince } from './rebuilding.js';
