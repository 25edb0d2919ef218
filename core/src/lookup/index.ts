/*
 * lookup: what does a table say of a word that came from outside?
 * In: a table by words, and a word that somebody typed, or that a camera wrote.
 * Out: what the table has of it; nothing for a word that only every object has.
 * Follows: ECMAScript 2022, Object.hasOwn (from memory).
 */
export { own } from './own.js';
