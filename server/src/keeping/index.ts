/*
 * keeping: copies made later, from copies that tally.
 * In: places that wait.
 * Out: the same proven copies as filing makes, with no card needed.
 */
export { fillPlace } from './fill-place.js';
export { keepingWork } from './work.js';
