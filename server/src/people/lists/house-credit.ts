import type { HouseCreditChange, HouseCreditView } from '@tally/contract';
import type { z } from 'zod';
import { type Db, inTransaction } from '../../db/database.js';
import { type House, record, tell } from '../../house/index.js';
import { followHouse } from '../store/following.js';
import { readHouseCredit, writeHouseCredit } from '../store/house-credit.js';
import { changesOf } from './changes.js';
import { mustBeSeen } from './lists.js';

export const houseCredit = (db: Db): Promise<HouseCreditView> => readHouseCredit(db);

/** Changes what the house says of every item unless something nearer does. The records beside the files follow, by and by. */
export async function changeHouseCredit(
  house: House,
  { revision, ...change }: z.infer<typeof HouseCreditChange>,
  who: string,
): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    const before = await readHouseCredit(tx, true);
    mustBeSeen(revision, { revision: before.revision, name: 'what the house says' });
    const words = {
      creditLine: 'credit line',
      copyrightNotice: 'copyright notice',
      termsId: 'terms',
      kinds: 'kinds of contributors',
    };
    const changes = await changesOf(tx, before, change, words);
    if (!changes.length) return;
    await writeHouseCredit(tx, change, before.revision + 1);
    const { creditLine = before.creditLine, copyrightNotice = before.copyrightNotice, termsId = before.termsId } = change;
    const isSaidOfItems =
      creditLine !== before.creditLine || copyrightNotice !== before.copyrightNotice || termsId !== before.termsId;
    if (isSaidOfItems) await followHouse(tx);
    const text = `The house: ${changes.join('; ')}.`;
    await record(tx, { at: house.clock(), kind: 'terms', intakeId: null, who, text, data: { before, change } });
    await tell(tx, { type: 'people' });
  });
}
