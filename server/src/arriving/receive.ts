import { basename, relative } from 'node:path';
import { holdUntilEnd } from '../db/locks.js';
import { inTransaction, type Db } from '../db/database.js';
import { cardIdentity, isSameIdentity, standsAt, type CardIdentity } from '../drive/card-identity.js';
import type { CardFacts } from '@tally/core/reader';
import { cardFacts } from '../drive/card-device.js';
import { cardsNow } from '../drive/watch-readers.js';
import { codeOf } from '../drive/list-card.js';
import { listItems } from './listing.js';
import { intakeLike } from './store/known-cards.js';
import {
  happens,
  type House,
  intakeById,
  intakesWhere,
  lockIntake,
  opens,
  record,
  Refusal,
  tell,
  theIntake,
  type Where,
} from '../house/index.js';
import { cameBack } from '../counter/index.js';
import { meetPlaces } from '../driving/index.js';
import { keepingNow, unfinished } from '../filing/index.js';
import { addItems, allThere, forgetUnreadable, type ListedItem, refreshTotals } from '../seeing/index.js';

/** An intake that a card may belong to. */
interface Known {
  readonly intakeId: number;
  readonly cardId: number;
  /** Are its files exactly those of the intake? */
  readonly same: boolean;
}

const TRIES = 5;

const isWithin = (root: string, path: string) => !relative(root, path).startsWith('..');

/** What a person must know of a card that holds nothing. */
const EMPTY = (items: readonly ListedItem[]) =>
  items.some(({ setAside }) => setAside === null) ? null : 'There is nothing to file on this card.';

/**
 * A card appeared: lists it and opens an intake, or goes on with the one it belongs to. A card that was here before is
 * known by its files (path, size, time). Whoever else receives the same card at the same moment gets the same intake.
 * @returns the intake's id. @throws Refusal when the folder cannot be listed.
 */
export async function receiveCard(house: House, sourcePath: string, receivedBy: string): Promise<number> {
  // What lies on a place is no card: nobody may ever clear it.
  const place = house.settings.places.find(({ root }) => isWithin(root, sourcePath));
  if (place)
    throw new Refusal(
      'conflict',
      `${sourcePath} lies on ${place.name}: what stands there is adopted (tally drive adopt), not read as a card.`,
    );
  const keeping = await keepingNow(house.db);
  const items = await listItems(sourcePath, house.settings.zone, keeping).catch((error: unknown) => {
    throw new Refusal('not possible now', `${sourcePath} cannot be listed (${codeOf(error)})`);
  });
  const identity = await cardIdentity(sourcePath, items);
  const reader = await factsOf(house, sourcePath);
  const where: Where = { sourcePath, station: house.settings.station, ...identity, reader };
  // Whatever number a record bears that stands on a place is drawn already.
  await meetPlaces(house);
  for (let tries = 0; tries < TRIES; tries++) {
    // Looked at outside of the transaction, which touches no file; if another intake is the one by then, looked at again.
    const known = await knownIntake(house.db, sourcePath, items);
    const elsewhere = known !== null && (await liesElsewhere(house, known.intakeId, where));
    const intakeId = await inTransaction(house.db, async (tx): Promise<number | null> => {
      await holdUntilEnd(tx, 'receiving', 0);
      const now = await knownIntake(tx, sourcePath, items);
      if (now?.intakeId !== known?.intakeId) return null;
      const mine = elsewhere ? null : now;
      return mine?.same ? goOn(house, tx, mine.intakeId, where) : open(house, tx, mine, items, receivedBy, where);
    });
    if (intakeId !== null) return intakeId;
  }
  throw new Refusal('not possible now', `${sourcePath} is being received by somebody else: try again`);
}

/** What lies in no reader (a folder that somebody named, what was handed in) is never let go, whatever it is mounted on. */
async function factsOf({ settings }: House, sourcePath: string): Promise<CardFacts> {
  const inReader = (await cardsNow(settings.readers)).has(sourcePath);
  const facts = await cardFacts(sourcePath, inReader ? settings.reader : {});
  return { ...facts, letsGo: inReader && facts.letsGo };
}

/** A card that still lies in another reader is not this one, however alike the two are. */
async function liesElsewhere(house: House, intakeId: number, here: Where): Promise<boolean> {
  const before = await intakeById(house.db, intakeId);
  // What lies in a reader of another station is for that one to see.
  if (!before?.present || before.sourcePath === here.sourcePath || before.station !== here.station) return false;
  return standsAt(before.sourcePath, before);
}

async function knownIntake(db: Db, sourcePath: string, items: readonly ListedItem[]): Promise<Known | null> {
  const files = items.filter((item) => item.problem === null);
  if (!files.length) {
    const volume = basename(sourcePath);
    const [empty] = await intakesWhere(
      db,
      `k.volume = $1 and i.state = 'open' and (i.totals->>'items')::int = 0 order by i.id desc limit 1`,
      [volume],
    );
    return empty ? { intakeId: empty.id, cardId: empty.card.id, same: true } : null;
  }
  const like = await intakeLike(db, files);
  if (!like || like.shared * 2 < Math.min(like.total, files.length)) return null;
  return { intakeId: like.intakeId, cardId: like.cardId, same: like.shared === files.length && like.total === items.length };
}

async function open(
  house: House,
  tx: Db,
  known: Known | null,
  items: readonly ListedItem[],
  receivedBy: string,
  where: Where,
): Promise<number> {
  const { settings, clock, jobs } = house;
  const volume = basename(where.sourcePath) || where.sourcePath;
  const id = await opens(tx, house, { id: known?.cardId ?? null, volume }, receivedBy, where, EMPTY(items));
  await addItems(tx, id, items, settings.takeAtFirst === 'all new');
  const again = known ? ' It was here before.' : '';
  const text = `Card ${volume} received, ${items.length} files.${again}`;
  await record(tx, { at: clock(), kind: 'received', intakeId: id, who: receivedBy, text });
  const { card } = await theIntake({ db: tx }, id);
  await cameBack(tx, house, card.id, id, receivedBy);
  await refreshTotals(tx, id);
  await jobs.read(tx, id, settings.station);
  await tell(tx, { type: 'desk' });
  if (card.onInsert === 'open') await tell(tx, { type: 'open', intakeId: id, station: settings.station });
  return id;
}

/** A card is back with exactly the files of an intake. */
async function goOn(house: House, tx: Db, intakeId: number, where: Where): Promise<number> {
  const { settings, clock, jobs } = house;
  const before = (await intakeById(tx, intakeId))!;
  const waits = (await unfinished(tx, intakeId)).length > 0;
  const note = before.state === 'needs attention' && waits ? null : undefined;
  const intake = await happens(tx, house, intakeId, { what: 'put in', unfinished: waits }, { where, note });
  if (!before.present)
    await record(tx, { at: clock(), kind: 'card back', intakeId, who: null, text: 'The card is in the reader again.' });
  await cameBack(tx, house, intake.card.id, intakeId, settings.station);
  await allThere(tx, intakeId);
  if (intake.state === 'open') await forgetUnreadable(tx, intakeId);
  await jobs.read(tx, intakeId, settings.station);
  if (intake.state === 'filing') await jobs.file(tx, intakeId, settings.station);
  await tell(tx, { type: 'intake', intakeId });
  await tell(tx, { type: 'desk' });
  if (!before.present && intake.card.onInsert === 'open') await tell(tx, { type: 'open', intakeId, station: settings.station });
  return intakeId;
}

/**
 * A card vanished from its reader. Nothing is lost: what was filed stays filed, what was not waits for the card.
 * @param seen what it was known by when it was looked for: if that is another by now (its files were removed by us a moment
 * ago), it has not vanished.
 * @returns whether it had.
 */
export async function cardVanished(house: House, sourcePath: string, seen?: CardIdentity): Promise<boolean> {
  const { db, settings, clock } = house;
  let vanished = false;
  const gone = await intakesWhere(db, 'i.present and i.station = $1 and i.source_path = $2', [settings.station, sourcePath]);
  for (const { id } of gone) {
    const pulled = await inTransaction(db, async (tx) => {
      // Whoever clears it holds it until it is known by something else.
      await lockIntake(tx, id);
      const now = await theIntake({ db: tx }, id);
      if (!now.present || (seen && !isSameIdentity(now, seen))) return false;
      await happens(tx, house, id, { what: 'pulled' });
      const text = 'The card was taken out of the reader.';
      // While it is let go that is no surprise, and whoever lets it go says so.
      if (now.letGo !== 'asked') await record(tx, { at: clock(), kind: 'card gone', intakeId: id, who: null, text });
      return true;
    });
    vanished ||= pulled;
  }
  return vanished;
}
