/*
 * card: what is on this card?
 * In: paths, sizes and times of a card's files, as listed.
 * Out: kinds, files set aside with the reason, companions of one exposure or clip, runs of time.
 * Standard: DCF (CIPA DC-009) objects and folders; the rest is common practice.
 */
export * from './kind.js';
export * from './set-aside.js';
export * from './companions.js';
export * from './runs.js';
export * from './camera-name.js';
