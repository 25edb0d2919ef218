import { markAnew, mustStillStand, probe } from '../drive/place.js';
import { highestNumbers } from '../drive/records-beside.js';
import { inTransaction } from '../db/database.js';
import { houseId, type House, intakeScope, lifeOf, raiseNumbers } from '../house/index.js';
import { placesStanding } from './places.js';
import { setMet, unmetPlaces } from './store.js';

const never = new AbortController().signal;

/**
 * Looks through the places that this house did not meet in this epoch for the numbers of the records that stand there: none
 * of them is drawn again. So an older copy of the database, or a new house on an old drive, goes on above what is there.
 * Call it before a number is drawn. Costs a query where every place was met.
 */
export async function meetPlaces(house: House, signal: AbortSignal = never): Promise<void> {
  const { epoch } = (await lifeOf(house.db))!;
  const unmet = new Set(await unmetPlaces(house.db, epoch));
  if (!unmet.size) return;
  for (const place of await placesStanding(house)) {
    if (!unmet.has(place.id) || !place.standing.online) continue;
    const numbers = await highestNumbers(place.root, signal);
    // What was not found on one that went away may stand there.
    await mustStillStand(place);
    await inTransaction(house.db, async (tx) => {
      await raiseNumbers(
        tx,
        [...numbers].map(([year, n]) => ({ scope: intakeScope(year), next: n + 1 })),
      );
      await setMet(tx, place.id, epoch);
    });
    await sayWhose(house, place).catch((error: unknown) => house.log.warn({ place: place.id, error: String(error) }, 'marking'));
  }
}

/** Marks of before houses had ids say whose they are from now on. */
async function sayWhose(house: House, place: Parameters<typeof markAnew>[0] & { readonly mark: string }): Promise<void> {
  const by = { house: house.settings.house, houseId: await houseId(house.db) };
  const { links } = await probe(place);
  await house.locks.holdInTurn('place', place.id, never, () => markAnew(place, place.mark, by, { links, isMarked: true }));
}
