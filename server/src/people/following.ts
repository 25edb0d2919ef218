import type { Db } from '../db/database.js';
import { keepUnshown, tell } from '../house/index.js';
import { explainItems, itemsMeant, touchItems } from './store/following.js';

/**
 * Something changed that is said of items: the records beside the files are written anew by the job that writes what is
 * due, and browsers look again. @param items SQL that selects `item_id`. @param touch do the items themselves say
 * something else now? @returns how many items it is about.
 */
export async function followItems(db: Db, items: string, parameters: readonly unknown[], touch = false): Promise<number> {
  let count = 0;
  // One intake after the other in one order: two such changes wait for each other.
  for (const { intakeId, ids } of await itemsMeant(db, items, parameters)) {
    count += ids.length;
    await explainItems(db, ids);
    if (touch) await touchItems(db, intakeId, ids);
    await tell(db, { type: 'items', intakeId });
    await tell(db, { type: 'intake', intakeId });
  }
  return count;
}

/** Counts anew, in the intakes of these items, those that show somebody who must not be shown. */
export async function refreshUnshown(db: Db, items: string, parameters: readonly unknown[]): Promise<void> {
  const intakes = await itemsMeant(db, items, parameters);
  await keepUnshown(
    db,
    intakes.map(({ intakeId }) => intakeId),
  );
}
