import type { BundleAnswer, BundleChange, BundleOrder, BundleView, IntoBundle, NewBundle } from '@tally/contract';
import { type Db, inTransaction } from '../db/database.js';
import { type House, lockIntake, record, Refusal, tell, theIntake } from '../house/index.js';
import { idsOf } from './asking.js';
import {
  bundleById,
  bundleCalled,
  bundlesAround,
  bundlesOfIntake,
  filedOfIntake,
  holdBundle,
  insertBundle,
  itemsOfBundle,
  orderBundle,
  putIntoBundle,
  removeBundle,
  setBundlesOfIntake,
  takeOutOfBundle,
  touchBundle,
  updateBundle,
} from './store/bundles.js';

const NO_SUCH = 'There is no such bundle.';

/** Makes a bundle. @throws Refusal when another one is called so, or the one around it is not there. */
export async function makeBundle(house: House, bundle: NewBundle, who: string): Promise<BundleView> {
  return inTransaction(house.db, async (tx) => {
    await nobodyElseCalled(tx, bundle.name, null);
    if (bundle.parentId !== null && !(await bundleById(tx, bundle.parentId))) throw new Refusal('not found', NO_SUCH);
    const id = await insertBundle(tx, bundle, who, house.clock());
    await said(house, tx, who, `Bundle “${bundle.name}” made.`);
    return (await bundleById(tx, id))!;
  });
}

/**
 * Renames a bundle, says a note, or puts it into another.
 * @throws Refusal when somebody else changed it since, it would stand in itself, or its name is taken.
 */
export async function changeBundle(house: House, id: number, change: BundleChange, who: string): Promise<BundleView> {
  return inTransaction(house.db, async (tx) => {
    if (change.parentId !== undefined && change.parentId !== null) {
      const around = await bundlesAround(tx, change.parentId);
      if (!around.length) throw new Refusal('not found', NO_SUCH);
      if (around.includes(id)) throw new Refusal('conflict', 'A bundle cannot stand in itself.');
    }
    const was = await held(tx, id);
    if (was.revision !== change.revision)
      throw new Refusal('conflict', 'Somebody else has just changed this bundle. Look again, then say what you want.');
    const next = { name: was.name, note: was.note, parentId: was.parentId, ...change };
    if (next.name !== was.name) await nobodyElseCalled(tx, next.name, id);
    await updateBundle(tx, id, next, house.clock());
    const renamed = next.name === was.name ? '' : `, called “${next.name}” now`;
    await said(house, tx, who, `Bundle “${was.name}” changed${renamed}.`);
    return (await bundleById(tx, id))!;
  });
}

/** Removes a bundle, and no item. What stood in it stands in the one around it. */
export async function endBundle(house: House, id: number, who: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    const was = await held(tx, id);
    await removeBundle(tx, id);
    await said(house, tx, who, `Bundle “${was.name}” of ${was.items} removed; its items stay where they are.`);
  });
}

/** Puts items into a bundle: these, or everything that answers a question. */
export async function fillBundle(house: House, id: number, meant: IntoBundle, who: string): Promise<BundleAnswer> {
  const ids = meant.itemIds ?? (await idsOf(house, meant.question ?? ''));
  return inTransaction(house.db, async (tx) => {
    await held(tx, id);
    const changed = await putIntoBundle(tx, id, ids, who);
    return changedNow(house, tx, id, changed, who, `${changed} put into`);
  });
}

export async function emptyBundle(house: House, id: number, itemIds: readonly number[], who: string): Promise<BundleAnswer> {
  return inTransaction(house.db, async (tx) => {
    await held(tx, id);
    const changed = await takeOutOfBundle(tx, id, itemIds);
    return changedNow(house, tx, id, changed, who, `${changed} taken out of`);
  });
}

/** Puts items of a bundle before another one of it, or at its end, in the order in which they are named. */
export async function moveInBundle(
  house: House,
  id: number,
  { itemIds, before }: BundleOrder,
  who: string,
): Promise<BundleAnswer> {
  return inTransaction(house.db, async (tx) => {
    await held(tx, id);
    const order = await itemsOfBundle(tx, id);
    const there = new Set(order);
    const moved = itemIds.filter((one) => there.has(one));
    const rest = order.filter((one) => !moved.includes(one));
    const at = before === null ? -1 : rest.indexOf(before);
    const place = at === -1 ? rest.length : at;
    await orderBundle(tx, id, [...rest.slice(0, place), ...moved, ...rest.slice(place)]);
    return changedNow(house, tx, id, moved.length, who, `${moved.length} moved in`);
  });
}

/** Says which bundles everything of an intake goes into; what is filed of it goes at once. */
export async function sayBundles(house: House, intakeId: number, bundleIds: readonly number[], who: string) {
  return inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    await theIntake({ db: tx }, intakeId);
    for (const id of [...bundleIds].sort((a, b) => a - b)) await held(tx, id);
    const before = new Set((await bundlesOfIntake(tx, intakeId)).map(({ id }) => id));
    await setBundlesOfIntake(tx, intakeId, bundleIds);
    const filed = await filedOfIntake(tx, intakeId);
    for (const id of bundleIds) if (!before.has(id) && filed.length) await putIntoBundle(tx, id, filed, who);
    const now = await bundlesOfIntake(tx, intakeId);
    const text = now.length ? `Goes into ${now.map(({ name }) => `“${name}”`).join(', ')}.` : 'Goes into no bundle.';
    await record(tx, { at: house.clock(), kind: 'slip', intakeId, who, text });
    await tell(tx, { type: 'intake', intakeId });
    await tell(tx, { type: 'shelf' });
    return now;
  });
}

async function held(tx: Db, id: number): Promise<BundleView> {
  const bundle = await holdBundle(tx, id);
  if (!bundle) throw new Refusal('not found', NO_SUCH);
  return bundle;
}

async function nobodyElseCalled(tx: Db, name: string, id: number | null): Promise<void> {
  const other = await bundleCalled(tx, name);
  if (other !== null && other !== id) throw new Refusal('conflict', `There is a bundle “${name}” already.`);
}

async function changedNow(house: House, tx: Db, id: number, changed: number, who: string, act: string): Promise<BundleAnswer> {
  if (changed) {
    await touchBundle(tx, id, house.clock());
    const { name } = (await bundleById(tx, id))!;
    await said(house, tx, who, `${act} bundle “${name}”.`);
  }
  return { bundle: (await bundleById(tx, id))!, changed };
}

async function said(house: House, tx: Db, who: string, text: string): Promise<void> {
  await record(tx, { at: house.clock(), kind: 'bundle', intakeId: null, who, text });
  await tell(tx, { type: 'shelf' });
}
