/*
 * filing: plan, promise, carry out, settle, pause and stop.
 * In: an intake and the seal of the plan that was shown.
 * Out: proven copies under final names, and what came of each. It alone writes filed items and copies.
 */
export { type Difference, recount } from './recount.js';
export { carryOut, settle } from './carry-out.js';
export { fileBatch } from './file-batch.js';
export { beginFiling, tryAgain } from './file.js';
export { keepingNow, planItems, planOf } from './plan.js';
export {
  copiesOf,
  markMissing,
  markSpoilt,
  takeUpCopies,
  proofsOf,
  unfinished,
  type Unfinished,
  waitForAll,
  wholeButTroubled,
  writeOutcomes,
} from './store/filed.js';
export {
  type AdoptedFile,
  adoptFiled,
  askCopiesAgain,
  dropCopies,
  filedAtPath,
  forgetFiled,
  type LedTo,
  movedAway,
  type NewName,
  renameFiled,
  standsAgain,
  wishCopies,
} from './store/renaming.js';
export { filedByPaths, rebuildFiled, rebuildFormer, type RebuiltFile } from './store/rebuilt.js';
export { filingWork } from './work.js';
export { dayBegins } from '../rules/index.js';
