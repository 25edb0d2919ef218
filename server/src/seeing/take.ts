import type { TakeChange } from '@tally/contract';
import { inTransaction } from '../db/database.js';
import { setTaken } from './store/items.js';
import { refreshTotals } from './totals.js';
import { type House, lockIntake, tell, theIntake } from '../house/index.js';

/** Takes or leaves items, companions together. */
export async function takeItems(house: House, intakeId: number, change: TakeChange): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    await theIntake({ db: tx }, intakeId);
    await setTaken(tx, intakeId, change.itemIds, change.taken);
    await refreshTotals(tx, intakeId);
    await tell(tx, { type: 'items', intakeId });
  });
}
