import type { CopyState } from '../copies/index.js';
import type { Tray } from '../trays/index.js';

/** Why a person set an item aside: the intake goes on without it. */
export const ASIDE_REASONS = ['unreadable', 'gone', 'not ours'] as const;
export type AsideReason = (typeof ASIDE_REASONS)[number];

/** An item as far as its standing goes. */
export interface StandingItem {
  readonly taken: boolean;
  readonly problem: string | null;
  readonly aside: AsideReason | null;
  /** When it was removed from its card; null while it is there. */
  readonly goneAt: string | null;
  readonly alreadyFiled: { readonly path: string; readonly confirmed: boolean } | null;
  /** The name that was promised to it; nothing stands there before a copy tallies. */
  readonly filedAs: string | null;
  readonly copies: readonly { readonly state: CopyState; readonly problem: string | null }[];
}

/** Where the card of an item is. */
export interface StandingCard {
  readonly tray: Tray;
}

export const ITEM_STANDINGS = [
  'filed',
  'being filed',
  'not filed',
  'already filed',
  'being compared',
  'set aside',
  'cannot be filed',
  'taken',
  'left',
  'left and gone',
  'left and out',
] as const;
export type ItemStanding = (typeof ITEM_STANDINGS)[number];

const TROUBLE: readonly CopyState[] = ['differs', 'missing', 'unreadable'];

/** Where an item stands now. Filed is only what stands somewhere under its name, whole and proven. */
export function standingOfItem(item: StandingItem, card: StandingCard): ItemStanding {
  if (item.filedAs !== null) {
    if (item.copies.some(({ state }) => state === 'tallied')) return 'filed';
    return item.copies.some(({ state }) => TROUBLE.includes(state)) ? 'not filed' : 'being filed';
  }
  if (item.alreadyFiled) return item.alreadyFiled.confirmed ? 'already filed' : 'being compared';
  if (item.aside !== null) return 'set aside';
  if (item.problem !== null) return 'cannot be filed';
  if (item.goneAt !== null) return 'left and gone';
  if (card.tray === 'out') return 'left and out';
  return item.taken ? 'taken' : 'left';
}

/** The same in words, with where it stands or why it does not. */
export function standingInWords(item: StandingItem, card: StandingCard): string {
  const standing = standingOfItem(item, card);
  switch (standing) {
    case 'filed':
      return `filed as ${item.filedAs}`;
    case 'being filed':
      return `being filed as ${item.filedAs}`;
    case 'not filed':
      return `not filed: ${item.copies.find(({ problem }) => problem !== null)?.problem ?? 'no copy tallies'}`;
    case 'already filed':
      return `already filed as ${item.alreadyFiled!.path}`;
    case 'being compared':
      return `being compared, looks filed as ${item.alreadyFiled!.path}`;
    case 'set aside':
      return `set aside: ${item.aside}`;
    case 'cannot be filed':
      return `cannot be filed: ${item.problem}`;
    case 'taken':
      return 'taken';
    case 'left':
      return 'left, still on the card';
    case 'left and gone':
      return 'left, and gone with the clearing';
    case 'left and out':
      return 'left; it was on the card when it was given back';
  }
}

/** Why an item cannot be taken any more, in words; null when it can. */
export function whyNotTaken(item: StandingItem, card: StandingCard): string | null {
  switch (standingOfItem(item, card)) {
    case 'left and gone':
      return 'it went with the clearing of its card';
    case 'left and out':
      return 'its card was given back';
    case 'filed':
    case 'being filed':
    case 'not filed':
      return 'it is filed, or its filing has begun';
    case 'cannot be filed':
      return item.problem;
    default:
      return item.goneAt === null ? null : 'it went with the clearing of its card';
  }
}
