import type { AsideChange } from '@tally/contract';
import { stateOfFiling } from '@tally/core/copies';
import { join } from 'node:path';
import { BLOCK_BYTES, GROWTH_BYTES } from '../drive/aligned.js';
import { sizeOf } from '../drive/final-name.js';
import { type Db, inTransaction } from '../db/database.js';
import { copyStates, filingOf, type Unfinished, unfinished, withdraw } from './store/filed.js';
import { placesStanding } from '../driving/index.js';
import { happens, type House, lockIntake, record, Refusal, takeBackNumbers, tell, theIntake } from '../house/index.js';
import { refreshTotals, setAsideItems, takeAgain, touchItems } from '../seeing/index.js';

/**
 * Sets items aside with a reason (they cannot be read, are gone, or are not ours), so that the intake goes on without
 * them: what was promised to them is free again, and when nothing else is in trouble the intake tallies. With the reason
 * null they are taken again.
 * @throws Refusal when the card is being filed, or one of them stands somewhere, whole.
 */
export async function setAside(house: House, intakeId: number, change: AsideChange, who: string): Promise<number> {
  const { itemIds, reason } = change;
  // Looked at before the transaction, which touches no file.
  const promised = new Map((await unfinished(house.db, intakeId)).map((item) => [item.itemId, item]));
  const asked = itemIds.flatMap((id) => promised.get(id) ?? []);
  const standing = reason === null ? null : await firstStanding(house, asked);
  if (standing)
    throw new Refusal(
      'conflict',
      `${standing.path} stands on the drive already, whole: what is missing of it is made from there. It cannot be set aside.`,
    );
  return inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    await theIntake({ db: tx }, intakeId);
    const count =
      reason === null ? await takeAgain(tx, intakeId, itemIds) : await setAsideNow(tx, intakeId, itemIds, reason, who);
    if (!count)
      throw new Refusal('conflict', reason === null ? 'None of these is set aside.' : 'None of these can be set aside.');
    const copies = await copyStates(tx, intakeId);
    const filed = copies.length > 0;
    const whole = stateOfFiling(copies.map(({ state }) => state)) === 'tallied';
    const note = whole ? null : undefined;
    await happens(tx, house, intakeId, { what: 'set aside', whole, filed }, note === null ? { note } : {});
    const totals = await refreshTotals(tx, intakeId);
    const text = `${count} ${count === 1 ? 'item' : 'items'} ${reason === null ? 'taken again' : `set aside: ${reason}`}.`;
    await record(tx, { at: house.clock(), kind: 'set aside', intakeId, who, text, data: change });
    if (whole && filed && reason !== null) {
      const rest = `${totals.filed} items tally; ${count} set aside.`;
      await record(tx, { at: house.clock(), kind: 'tallied', intakeId, who: null, text: rest });
    }
    await touchItems(tx, intakeId);
    await tell(tx, { type: 'items', intakeId });
    await tell(tx, { type: 'intake', intakeId });
    await tell(tx, { type: 'desk' });
    return count;
  });
}

async function setAsideNow(
  tx: Db,
  intakeId: number,
  itemIds: readonly number[],
  reason: NonNullable<AsideChange['reason']>,
  who: string,
): Promise<number> {
  const begun = await filingOf(tx, intakeId, itemIds);
  const whole = begun.find(({ tallied }) => tallied);
  if (whole) throw new Refusal('conflict', `${whole.path} is filed: it cannot be set aside.`);
  await withdraw(
    tx,
    begun.map(({ filedItemId }) => filedItemId),
  );
  await takeBackNumbers(tx, intakeId);
  return (await setAsideItems(tx, intakeId, itemIds, reason, who)).length;
}

/** Its own size, or what it may be with its credit inside. */
const mayBe = (size: number, bytes: number) => Math.abs(size - bytes) < GROWTH_BYTES && (size - bytes) % BLOCK_BYTES === 0;

/** One of these that tallies somewhere, or stands under its name at a place: a run that died may have named it. */
async function firstStanding(house: House, items: readonly Unfinished[]): Promise<Unfinished | null> {
  const places = (await placesStanding(house)).filter((place) => place.standing.online);
  for (const item of items) {
    if (item.tallied.length) return item;
    for (const { root } of places) {
      const size = await sizeOf(join(root, item.folder, item.name)).catch(() => null);
      if (size !== null && mayBe(size, item.bytes)) return item;
    }
  }
  return null;
}
