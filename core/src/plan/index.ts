/*
 * plan: what will happen?
 * In: the items of a card, the slip, the house rule, and the drive as it is.
 * Out: every placement (old → new), new folders, numbers drawn, clashes and how they are resolved, items left and why.
 * Nothing is written here; filing does what the plan says or says first what differs.
 */
export * from './plan.js';
export { contextOf, reasonLeft, type PlanItem, type PlanSlip } from './items.js';
export * from './difference.js';
export * from './kept-together.js';
export { type OtherDay } from './other-days.js';
export * from './propose.js';
export * from './doubts.js';
