import { basename } from 'node:path';
import { codeOf, isFolder } from '../drive/list-card.js';
import { type Db, inTransaction } from '../db/database.js';
import { intakeLike } from './store/known-cards.js';
import { listItems } from './listing.js';
import {
  addCard,
  addIntake,
  type House,
  houseTime,
  intakeById,
  intakesWhere,
  record,
  Refusal,
  setPresence,
  setState,
  setTray,
  tell,
} from '../house/index.js';
import { addItems, forgetUnreadable, type ListedItem, refreshTotals } from '../seeing/index.js';
import { cameBack } from '../counter/index.js';
import { unfinished } from '../filing/index.js';

/**
 * A card appeared: lists it and opens an intake, or goes on with the one it belongs to. A card that was here before is
 * known by its files (path, size, time).
 * @returns the intake's id. @throws Refusal when the folder cannot be listed.
 */
export async function receiveCard(house: House, sourcePath: string, receivedBy: string): Promise<number> {
  const items = await listItems(sourcePath, house.settings.zone).catch((error: unknown) => {
    throw new Refusal('not possible now', `${sourcePath} cannot be listed (${codeOf(error)})`);
  });
  const known = await knownIntake(house.db, sourcePath, items);
  if (known?.same) return goOn(house, known.intakeId, sourcePath);

  const { settings, clock } = house;
  const now = clock();
  const volume = basename(sourcePath) || sourcePath;
  const intakeId = await inTransaction(house.db, async (tx) => {
    const cardId = known?.cardId ?? (await addCard(tx, volume, now));
    await setTray(tx, cardId, 'in', now);
    const year = Number(houseTime(house, now).slice(0, 4));
    const id = await addIntake(tx, { cardId, receivedAt: now, year, receivedBy, station: settings.station, sourcePath });
    await addItems(tx, id, items, settings.takeAtFirst === 'all new');
    const again = known ? ' It was here before.' : '';
    await record(tx, {
      at: now,
      kind: 'received',
      intakeId: id,
      who: receivedBy,
      text: `Card ${volume} received, ${items.length} files.${again}`,
    });
    await cameBack(tx, house, cardId, id, receivedBy);
    const totals = await refreshTotals(tx, id);
    if (totals.items === 0) await setState(tx, id, 'open', 'There is nothing to file on this card.');
    await house.jobs.read(tx, id, settings.station);
    await tell(tx, { type: 'desk' });
    if ((await intakeById(tx, id))!.card.onInsert === 'open')
      await tell(tx, { type: 'open', intakeId: id, station: settings.station });
    return id;
  });
  return intakeId;
}

async function knownIntake(
  db: Db,
  sourcePath: string,
  items: readonly ListedItem[],
): Promise<{ intakeId: number; cardId: number; same: boolean } | null> {
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
  // A card that still lies in another reader is not this one, however alike the two are.
  const before = await intakeById(db, like.intakeId);
  if (before?.present && before.sourcePath !== sourcePath && (await isFolder(before.sourcePath))) return null;
  return { intakeId: like.intakeId, cardId: like.cardId, same: like.shared === files.length && like.total === items.length };
}

/** A card is back with exactly the files of an intake. */
async function goOn(house: House, intakeId: number, sourcePath: string): Promise<number> {
  const { db, settings, clock, jobs } = house;
  await inTransaction(db, async (tx) => {
    const intake = (await intakeById(tx, intakeId))!;
    await setPresence(tx, intakeId, true, sourcePath, settings.station);
    if (!intake.present) {
      await record(tx, { at: clock(), kind: 'card back', intakeId, who: null, text: 'The card is in the reader again.' });
    }
    // What was handed in by hand and turns out to hold nothing new is done.
    const done = intake.state === 'tallied' || intake.state === 'closed';
    if (intake.tray === 'out' || (intake.tray === 'in' && done))
      await setTray(tx, intake.card.id, done ? 'to give back' : intake.state === 'open' ? 'in' : 'on the desk', clock());
    await cameBack(tx, house, intake.card.id, intakeId, settings.station);
    if (intake.state === 'open') {
      await forgetUnreadable(tx, intakeId);
      await jobs.read(tx, intakeId, settings.station);
    }
    const waits = intake.state === 'needs attention' && (await unfinished(tx, intakeId)).length > 0;
    if (waits) await setState(tx, intakeId, 'filing', null);
    if (waits || intake.state === 'filing') await jobs.file(tx, intakeId, settings.station);
    await tell(tx, { type: 'intake', intakeId });
    await tell(tx, { type: 'desk' });
    if (!intake.present && intake.card.onInsert === 'open') await tell(tx, { type: 'open', intakeId, station: settings.station });
  });
  return intakeId;
}

/** A card vanished from its reader. Nothing is lost: what was filed stays filed, what was not waits for the card. */
export async function cardVanished(house: House, sourcePath: string): Promise<void> {
  const { db, settings, clock } = house;
  const gone = await intakesWhere(db, 'i.present and i.station = $1 and i.source_path = $2', [settings.station, sourcePath]);
  for (const intake of gone) {
    await setPresence(db, intake.id, false);
    await record(db, {
      at: clock(),
      kind: 'card gone',
      intakeId: intake.id,
      who: null,
      text: 'The card was taken out of the reader.',
    });
    await tell(db, { type: 'intake', intakeId: intake.id });
  }
  if (gone.length) await tell(db, { type: 'desk' });
}
