import type { TakeChange } from '@tally/contract';
import { inTransaction } from '../db/database.js';
import { pastTaking } from './store/fates.js';
import { leadersOf, setTaken } from './store/items.js';
import { refreshTotals } from './totals.js';
import { type House, lockIntake, Refusal, tell, theIntake } from '../house/index.js';

/**
 * Takes or leaves items, companions together. All of them or none.
 * @throws Refusal when somebody began to file one in the meantime, or it is gone from the card.
 */
export async function takeItems(house: House, intakeId: number, change: TakeChange): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    const { tray } = await theIntake({ db: tx }, intakeId);
    const { itemIds, taken } = change;
    const leaders = await leadersOf(tx, intakeId, itemIds);
    const { begun, gone } = await pastTaking(tx, intakeId, leaders, taken);
    const does = taken ? 'taken' : 'left';
    if (begun.length) throw new Refusal('conflict', `${says(begun, 'filed, or being filed')} by now: nothing was ${does}.`);
    if (gone.length) throw new Refusal('conflict', `${says(gone, 'gone from the card: cleared')}. Nothing was taken.`);
    if (taken && tray === 'out') throw new Refusal('conflict', 'The card was given back: hand it in again to take anything.');
    await setTaken(tx, intakeId, leaders, taken);
    await refreshTotals(tx, intakeId);
    await tell(tx, { type: 'items', intakeId });
  });
}

/** `DCIM/A.JPG is gone`, `DCIM/A.JPG and 3 more are gone`. */
function says(paths: readonly string[], what: string): string {
  const [first, ...more] = paths;
  return more.length ? `${first} and ${more.length} more are ${what}` : `${first} is ${what}`;
}
