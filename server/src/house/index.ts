/*
 * house: what every use case is given, and the life of an intake.
 * In: settings, clock, database; what happens to cards and intakes.
 * Out: the house itself, refusals, intakes and cards, the log. It alone writes an intake's state, its card's tray, its presence.
 */
export { type House, houseTime, Refusal } from './house.js';
export { adopts, cardMoves, happens, isKnownCard, opens, readThrough } from './intake-life.js';
export { intakeNumbered } from './numbered.js';
export { addOwnCard, cardById, cardOfLabel, type CardRow, nextLabel, setLabel, setOnInsert, setOurs } from './store/cards.js';
export { advanceNumbers, intakeScope, keepDrawn, nextNumbers, raiseNumbers, takeBackNumbers } from './store/counters.js';
export { eventsOf, record, tell } from './store/events.js';
export {
  adoptedAt,
  anybodyFiling,
  joinParts,
  keepUnshown,
  setAnsweredBy,
  setSlipCredit,
  type SlipCredit,
  haltOf,
  intakeById,
  type IntakeRow,
  intakesAfter,
  intakesWhere,
  keptTotals,
  keepParts,
  keepTotals,
  namesOfParts,
  NO_TOTALS,
  partsKept,
  byWhose,
  lockIntake,
  type Lying,
  lyingAt,
  type PartOfIntake,
  sayAnew,
  setCleared,
  setNote,
  setRule,
  setSlip,
  summaryOf,
  unsay,
} from './store/intakes.js';
export { areKnown, beginLife, houseId, type Life, lifeOf, raiseEpoch, uidsOf } from './store/life.js';
export {
  freeNumber,
  isEmptyHouse,
  rebuildCards,
  rebuildEvents,
  rebuildingFrom,
  rebuildIntake,
  setRebuilding,
} from './store/rebuilt.js';
export type { Where } from './store/lives.js';
export { theIntake } from './the-intake.js';
