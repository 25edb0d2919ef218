/*
 * people: who hands in, what is covered.
 * In: what somebody says of contributors, assignments and lists.
 * Out: those, by name, code or slug.
 */
export { changeAssignment, changeContributor, mergeAssignments, mergeContributors } from './correcting.js';
export { makeAssignment, makeContributor, unsortedAssignment } from './joining.js';
export { assignmentCalled, locationCalled, type Slip, slipIds, slipOf, type SlipOptions, termsCalled } from './named.js';
export { addAgreement } from './agreements.js';
export { forgetContributor } from './forgetting.js';
export { addToList, correctInList, houseList } from './lists/lists.js';
export { changeHouseCredit } from './lists/house-credit.js';
export { addWord, wordsCalled } from './lists/words.js';
export { exportSkos, importSkos } from './lists/word-sheets.js';
export { followItems, refreshUnshown } from './following.js';
export { behindAt, following } from './store/following.js';
export { peopleWork } from './work.js';
export { withheldNames } from './withheld.js';
export { namesFor, picturedCalled } from './store/lists.js';
export { keywordIds, rebuildHouseCredit, rebuildLists, rebuildNamed, rebuildPictured, rebuildSaid } from './store/rebuilt.js';
export { completions, nameOfWord, wordsNamed } from './store/words.js';
export {
  assignmentBySlug,
  assignmentsOf,
  contributorByCode,
  contributorsOf,
  isOfKind,
  listContributors,
  mustExist,
  nameOf,
  rememberCamera,
} from './store/people.js';
export { assignmentPage, assignmentsOn, expectedSince } from './store/assignments.js';
