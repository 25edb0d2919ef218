import { erasing as erasingOf, type Erased } from '@tally/core/audit';
import { inTransaction, type Db } from '../db/database.js';
import { record, tell, type House } from '../house/index.js';
import { digestOf, newSalt } from './chaining.js';
import { addErasing, eraseTold, formerNames, lookedAt, nextErasing, toldOf, type ErasingRow } from './store/erasing.js';

/** Somebody whose name is to be erased from the log, and all that is known of them. */
export type ToErase = Pick<Erased, 'id' | 'names' | 'lines'>;

/** How somebody is called who wished to be forgotten. */
export const forgottenName = (id: number): string => `Contributor ${id}`;

/**
 * From now on the log is gone through for somebody's name, until it stands nowhere in it: behind, by whichever station has
 * time, and again from where it was if that dies. What they were called before is found by what was told of their record.
 */
export const eraseFromLog = (tx: Db, who: string, { id, names, lines }: ToErase): Promise<void> =>
  addErasing(tx, id, names, lines, who);

/** Erases what is waiting to be. One process at a time, and never while the log is being chained. @returns changed events */
export async function eraseWaiting(house: House, signal: AbortSignal): Promise<number> {
  let erased = 0;
  if (!(await nextErasing(house.db))) return erased;
  await house.locks.hold('chaining', 0, signal, async (inner) => {
    // What transactions tell that began before the wish is waited for: they may have the name still.
    for (let row = await nextErasing(house.db); row && !inner.aborted; row = await nextErasing(house.db))
      erased += await eraseSome(house, row);
  });
  return erased;
}

async function eraseSome(house: House, row: ErasingRow): Promise<number> {
  const id = row.contributorId;
  const names = row.upto ? row.names : [...new Set([...row.names, ...(await formerNames(house.db, id))])];
  const as = forgottenName(id);
  const without = erasingOf({ id, as, names: names.filter((name) => name !== as), lines: row.lines });
  return inTransaction(house.db, async (tx) => {
    const { events, upto, isEnd } = await toldOf(tx, id, [...names, ...row.lines], row.upto);
    const changed = events.flatMap((event) => {
      const after = without(event);
      if (!after) return [];
      const now = { ...event, ...after };
      const salt = newSalt();
      return [{ event: now, salt, digest: digestOf(salt, now) }];
    });
    if (changed.length) {
      const sentences = changed.length === 1 ? 'one sentence' : `${changed.length} sentences`;
      const text = `The name of ${as} was erased from ${sentences} of the log.`;
      const data = { events: Object.fromEntries(changed.map(({ event, digest }) => [event.id, digest])) };
      const by = await record(tx, { at: house.clock(), kind: 'erased', intakeId: null, who: row.who, text, data });
      await eraseTold(tx, changed, by);
      await tell(tx, { type: 'people' });
    }
    await lookedAt(tx, id, names, isEnd ? null : upto);
    return changed.length;
  });
}
