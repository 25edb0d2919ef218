import type { Tray } from '@tally/contract';
import { becomes, type Happening, type Life } from '@tally/core/life';
import { whyNotTo } from '@tally/core/trays';
import type { Db } from '../db/database.js';
import { type House, houseTime, Refusal } from './house.js';
import { addCard, addPlaceCard, cardById, cardOfPlace, mergeCards, type CardRow } from './store/cards.js';
import { tell } from './store/events.js';
import { addIntake, intakeById, isAdopted, type IntakeRow } from './store/intakes.js';
import { holdCard, holdLife, presentAt, writeLife, writeReadThrough, writeTray, type Where } from './store/lives.js';

/*
 * The only writer of an intake's state, its card's tray and its presence. What may become of what is said by core/life;
 * here it is kept: under the locks of the intake and its card (in this order, everywhere), in the caller's transaction.
 */

type Clocked = Pick<House, 'clock'>;

interface More {
  /** What a person must know now; undefined: as before. */
  readonly note?: string | null;
  /** Where the card lies now. */
  readonly where?: Where;
}

/**
 * Something happens to an intake. Call it in a transaction.
 * @returns the intake afterwards. @throws Refusal when it cannot happen now, with the reason.
 */
export async function happens(
  tx: Db,
  house: Clocked,
  intakeId: number,
  happening: Happening,
  more: More = {},
): Promise<IntakeRow> {
  const before = await holdLife(tx, intakeId);
  if (!before) throw new Refusal('not found', 'There is no such intake.');
  const outcome = becomes(before, happening);
  if (!outcome.ok) {
    const away = !before.present && (happening.what === 'begun' || happening.what === 'tried again');
    throw new Refusal(away ? 'not possible now' : 'conflict', outcome.why);
  }
  const { life } = outcome;
  await writeLife(tx, intakeId, life, more);
  await writeTray(tx, before.cardId, life.tray, house.clock());
  // What comes, or comes again, is read until nothing is left to read.
  if (happening.what === 'put in' || happening.what === 'more came') await writeReadThrough(tx, intakeId, false);
  if (differs(before, life)) {
    await tell(tx, { type: 'intake', intakeId, state: life.state });
    await tell(tx, { type: 'desk' });
  }
  return (await intakeById(tx, intakeId))!;
}

const differs = (a: Life, b: Life) =>
  a.state !== b.state || a.tray !== b.tray || a.present !== b.present || a.wish !== b.wish || a.letGo !== b.letGo;

/** A card came that nobody knows as it is: a new intake begins. @returns its id. Call it in a transaction. */
export async function opens(
  tx: Db,
  house: Pick<House, 'clock' | 'settings'>,
  card: { readonly id: number | null; readonly volume: string },
  receivedBy: string,
  where: Where,
  note: string | null = null,
): Promise<number> {
  const at = house.clock();
  // Whatever was thought to lie there does not any more.
  for (const gone of await presentAt(tx, where.station, where.sourcePath)) await happens(tx, house, gone, { what: 'pulled' });
  if (card.id !== null) await holdCard(tx, card.id);
  const cardId = card.id ?? (await addCard(tx, card.volume, at));
  await writeTray(tx, cardId, 'in', at);
  const year = Number(houseTime(house, at).slice(0, 4));
  return addIntake(tx, { cardId, receivedAt: at, year, receivedBy, note, ...where });
}

/**
 * Files that stand at a place are taken into the logbook: an intake of their folder, which no card brought and nobody can
 * clear. Call it in a transaction. @param adoption the place, and the adoption it belongs to. @returns its id.
 */
export async function adopts(
  tx: Db,
  house: Pick<House, 'clock' | 'settings'>,
  where: Pick<Where, 'sourcePath' | 'station'>,
  adoption: { readonly id: number; readonly placeId: string; readonly placeName: string; readonly folder: string },
  who: string,
): Promise<number> {
  const at = house.clock();
  const cardId = (await cardOfPlace(tx, adoption.placeId)) ?? (await addPlaceCard(tx, adoption.placeName, at));
  const year = Number(houseTime(house, at).slice(0, 4));
  const id = await addIntake(tx, {
    cardId,
    receivedAt: at,
    year,
    receivedBy: who,
    note: null,
    device: null,
    witness: null,
    ...where,
  });
  await isAdopted(tx, id, adoption);
  return id;
}

/** Everything of an intake was read, compared and recognised. */
export const readThrough = (tx: Db, intakeId: number): Promise<void> => writeReadThrough(tx, intakeId, true);

/**
 * Moves a card, whether or not it was read: what tallied from it is closed when it goes out. Call it in a transaction.
 * @returns the card before it moved; null when there is none. @throws Refusal when the process does not allow it.
 */
export async function cardMoves(
  tx: Db,
  house: Clocked,
  cardId: number,
  to: Tray,
  inWords: (card: CardRow, why: string) => string,
): Promise<CardRow | null> {
  const tallied = await holdCard(tx, cardId);
  const card = await cardById(tx, cardId);
  if (!card) return null;
  const why = whyNotTo(card, to);
  if (why !== null) throw new Refusal('conflict', inWords(card, why));
  await writeTray(tx, cardId, to, house.clock());
  if (to === 'out') await closeAll(tx, house, tallied);
  if (card.tray !== to) {
    await tell(tx, { type: 'desk' });
    if (card.intake) await tell(tx, { type: 'intake', intakeId: card.intake.id });
  }
  return card;
}

async function closeAll(tx: Db, house: Clocked, tallied: readonly number[]): Promise<void> {
  for (const intakeId of tallied) await happens(tx, house, intakeId, { what: 'done with' });
}

/** A card that was taken for a new one is a known one, formatted: its intakes go over, and what tallied before is closed. */
export async function isKnownCard(tx: Db, house: Clocked, fresh: number, known: number): Promise<void> {
  // The smaller id first, so that two of these never wait for each other.
  const held = new Map<number, number[]>();
  for (const cardId of [fresh, known].sort((a, b) => a - b)) held.set(cardId, await holdCard(tx, cardId));
  await closeAll(tx, house, held.get(known)!);
  await mergeCards(tx, fresh, known);
}
