/*
 * words: what is in a picture, said in the house's words.
 * In: words with their names in several languages, and what somebody types.
 * Out: completions, what means more or less, a word list as triples.
 * Standard: W3C SKOS Reference (2009).
 */
export { foldText, partsOfTyped, startsOf } from './fold.js';
export { RDF_TYPE, SKOS, triplesToWords, wordsToTriples, type SkosRead, type SkosWord, type Term, type Triple } from './skos.js';
export { completionsOf, faultOfBroader, withNarrower, wordText, type Completion, type Word, type WordLabel } from './word.js';
