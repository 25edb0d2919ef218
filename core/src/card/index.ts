/*
 * card: what is on this card?
 * In: paths, sizes and times of a card's files, as listed.
 * Out: kinds, files set aside with the reason, companions of one exposure or clip, runs of time.
 * Standard: DCF (CIPA DC-009) objects and folders; the rest is common practice.
 */
export * from './kind.js';
export { DEFAULT_KEEPING, keptRoot, setAsideReason, systemReason, type Keeping } from './set-aside.js';
export { objectsOf } from './objects.js';
export { OBJECT_ROLES, type Belonging, type ListedFile, type ObjectRole } from './object.js';
export {
  STRUCTURES,
  STRUCTURE_NAMES,
  structureNamed,
  TREE_STRUCTURES,
  type Structure,
  type StructureName,
} from './structures.js';
export { treeHolders, treeRoots } from './trees.js';
export { partsInWords } from './parts-in-words.js';
export * from './runs.js';
export * from './camera-name.js';
