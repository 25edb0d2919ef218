import { holdUntilEnd } from '../db/locks.js';
import { type Db, inTransaction } from '../db/database.js';
import { beginLife, lifeOf, raiseEpoch, record } from '../house/index.js';
import { eraseFromTheStart } from './store/erasing.js';
import { lastLink } from './store/chain.js';

/**
 * Who this house is; begun where it is new. Where its database is another one than before (brought back, copied, moved),
 * its transactions are numbered anew: the log goes on in another epoch, and says so.
 * @returns whether that was so: then what is remembered by numbers of transactions is forgotten by whoever keeps it
 */
export async function goOnHere(db: Db, now: Date): Promise<boolean> {
  const life = await lifeOf(db);
  if (life?.isHere) return false;
  if (life === null) {
    await beginLife(db);
    return false;
  }
  return inTransaction(db, async (tx) => {
    await holdUntilEnd(tx, 'epoch', 0);
    // Of two that begin at once one finds it done.
    const { epoch, isHere } = (await lifeOf(tx))!;
    if (isHere) return false;
    await raiseEpoch(tx);
    await eraseFromTheStart(tx);
    const after = (await lastLink(tx))?.position ?? 0;
    const text = `The log goes on in another database than before, after ${after} chained events. What was told later than those, before the copy was made that this database comes from, follows.`;
    await record(tx, { at: now, kind: 'chain', intakeId: null, who: null, text, data: { epoch: epoch + 1, after } });
    return true;
  });
}
