/*
 * life: what becomes of an intake, and of its card, when something happens to them?
 * In: an intake's state, its card's tray, whether the card is in a reader, what a person wishes of a filing; a happening.
 * Out: the same afterwards, or why it cannot happen.
 * The table is the whole truth of it: nothing else may decide a state, a tray or a presence.
 */
export { becomes, TABLE, type Happening, type Life, type Outcome, type Wish } from './life.js';
export {
  ASIDE_REASONS,
  type AsideReason,
  ITEM_STANDINGS,
  type ItemStanding,
  standingInWords,
  standingOfItem,
  type StandingCard,
  type StandingItem,
  whyNotTaken,
} from './item-standing.js';
