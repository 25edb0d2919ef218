import type { AlikeAnswer, WhereAnswer } from '@tally/contract';
import { alikeTo } from '@tally/core/find';
import { join } from 'node:path';
import { placesStanding } from '../driving/index.js';
import { type House, Refusal } from '../house/index.js';
import { foundItems } from './asking.js';
import { shelfNow } from './kept-shelf.js';
import { bundlesOfItem } from './store/bundles.js';

const MOST_ALIKE = 24;
const NOT_FILED = 'There is no such filed item.';

/** What is like an item, over the whole house. */
export async function alikes(house: House, itemId: number): Promise<AlikeAnswer> {
  const shelf = await shelfNow(house);
  if (shelf.slotFor(itemId) === undefined) throw new Refusal('not found', NOT_FILED);
  const alike = alikeTo(shelf, itemId, MOST_ALIKE);
  const items = await foundItems(
    house,
    shelf,
    alike.map(({ id }) => id),
  );
  const byId = new Map(items.map((item) => [item.id, item]));
  return alike.flatMap(({ id, how, bits }) => {
    const item = byId.get(id);
    return item ? [{ how, bits, item }] : [];
  });
}

/** Where an item stands at each place, and what it came with. */
export async function whereIs(house: House, itemId: number): Promise<WhereAnswer> {
  const shelf = await shelfNow(house);
  const [item] = await foundItems(house, shelf, [itemId]);
  if (!item?.filedAs) throw new Refusal('not found', NOT_FILED);
  const { filedAs } = item;
  const states = new Map(item.copies.map(({ place, state }) => [place, state]));
  const places = (await placesStanding(house)).flatMap(({ id, name, root, standing }) => {
    const state = states.get(id);
    return state ? [{ id, name, online: standing.online, state, path: root ? join(root, filedAs) : null }] : [];
  });
  return {
    ...{ path: filedAs, places, contributor: item.contributor, assignment: item.assignment },
    intake: { id: item.intake.id, number: item.intake.number },
    card: { label: item.intake.card, path: item.path },
    bundles: await bundlesOfItem(house.db, itemId),
  };
}
