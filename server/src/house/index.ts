/*
 * house: what every use case is given, and the life of an intake.
 * In: settings, clock, database; what happens to cards and intakes.
 * Out: the house itself, refusals, intakes and cards, the log. It alone writes an intake's state, its card's tray, its presence.
 */
export { type House, houseTime, Refusal } from './house.js';
export { intakeNumbered } from './numbered.js';
export {
  addCard,
  cardById,
  cardOfLabel,
  type CardRow,
  lockCard,
  mergeCards,
  nextLabel,
  setLabel,
  setOnInsert,
  setOurs,
  setTray,
} from './store/cards.js';
export { advanceNumbers, nextNumbers } from './store/counters.js';
export { eventsOf, LIVE_CHANNEL, record, tell } from './store/events.js';
export {
  addIntake,
  anybodyFiling,
  closeTallied,
  haltOf,
  intakeById,
  type IntakeRow,
  intakesWhere,
  lockIntake,
  pathsMissed,
  setHalt,
  setPresence,
  setRule,
  setSlip,
  setState,
  summaryOf,
} from './store/intakes.js';
export { theIntake } from './the-intake.js';
