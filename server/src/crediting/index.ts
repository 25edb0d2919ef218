/*
 * crediting: what the files themselves say of whose they are.
 * What is planned for each item, how it is put into a JPEG, and which version stands at which place.
 */
export { editOf, keptEdit } from './kept-edit.js';
export { creditPlan, insertionFor, type Planned } from './planned.js';
export {
  copiesOfItem,
  copiesStanding,
  keepVersions,
  setStands,
  versionsOf,
  writingOfHouse,
  type CopyStands,
  type NewVersion,
  type StandsAt,
  type Version,
} from './store.js';
