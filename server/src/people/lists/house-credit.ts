import type { HouseCreditChange, HouseCreditView } from '@tally/contract';
import { CREDITED_KINDS, type Writing, WRITING_BY_ITSELF } from '@tally/core/fields';
import type { z } from 'zod';
import { type Db, inTransaction } from '../../db/database.js';
import { type House, record, tell } from '../../house/index.js';
import { followHouse } from '../store/following.js';
import { readHouseCredit, writeHouseCredit } from '../store/house-credit.js';
import { changesOf } from './changes.js';
import { mustBeSeen } from './lists.js';

export const houseCredit = (db: Db): Promise<HouseCreditView> => readHouseCredit(db);

/** With where credit is written in words, for the log. */
const withWords = <T extends { writing?: Writing }>({ writing, ...said }: T) => ({
  ...said,
  ...(writing ? { writing: CREDITED_KINDS.map((kind) => `${kind} ${writing[kind] ?? WRITING_BY_ITSELF[kind]}`).join(', ') } : {}),
});

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
      writing: 'where it is written',
    };
    const changes = await changesOf(tx, withWords(before), withWords(change), words);
    if (!changes.length) return;
    await writeHouseCredit(tx, change, before.revision + 1);
    const { creditLine = before.creditLine, copyrightNotice = before.copyrightNotice, termsId = before.termsId } = change;
    const isSaidOfItems =
      creditLine !== before.creditLine ||
      copyrightNotice !== before.copyrightNotice ||
      termsId !== before.termsId ||
      change.writing !== undefined;
    if (isSaidOfItems) await followHouse(tx);
    const text = `The house: ${changes.join('; ')}.`;
    await record(tx, { at: house.clock(), kind: 'house', intakeId: null, who, text, data: { before, change } });
    await tell(tx, { type: 'people' });
  });
}
