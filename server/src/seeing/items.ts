import type { ItemsAnswer, ItemView } from '@tally/contract';
import { dateDoubt } from '@tally/core/capture';
import { join } from 'node:path';
import { joinBytes } from '../drive/list-card.js';
import { isThere, type PreviewSource } from '../media/previews.js';
import { itemPlace, itemsById, itemsOf, type ItemRow } from './store/items.js';
import { listPlaces } from '../driving/index.js';
import { type House, houseTime, Refusal } from '../house/index.js';

/** The items of an intake as the interface sees them, or only those that changed after a version. */
export async function itemsAnswer(house: House, intakeId: number, since: number): Promise<ItemsAnswer> {
  const now = houseTime(house, house.clock());
  const rows = await itemsOf(house.db, intakeId, since);
  const version = rows.reduce((newest, row) => Math.max(newest, row.version), since);
  return { version, items: rows.map((row) => viewOf(row, now)) };
}

export const itemViews = async (house: House, intakeId: number): Promise<ItemView[]> =>
  (await itemsAnswer(house, intakeId, 0)).items;

/** Some items, of whatever intakes, as the interface sees them. In no order that means anything. */
export async function itemViewsById(house: House, ids: readonly number[]): Promise<ItemView[]> {
  const now = houseTime(house, house.clock());
  return (await itemsById(house.db, ids)).map((row) => viewOf(row, now));
}

function viewOf(row: ItemRow, now: string): ItemView {
  const { captured, cameraLocal, clockShiftS } = row;
  const doubt = dateDoubt(captured, now);
  // The row is nobody else's: thousands of them are not copied.
  return Object.assign(row, NOT_SHOWN, { captured: { ...captured, camera: cameraLocal, shiftSeconds: clockShiftS, doubt } });
}

/** What of a row is not for everybody: nothing is sent of what is undefined. */
const NOT_SHOWN = {
  ...{ pathBytes: undefined, quickHash: undefined, modifiedAt: undefined, version: undefined },
  ...{ cameraLocal: undefined, clockShiftS: undefined },
};

/** A copy of an item that tallies and is there, with the name that it stands under. @throws Refusal when there is none. */
export async function filedCopy(house: House, itemId: number): Promise<{ path: string; name: string }> {
  const place = await itemPlace(house.db, itemId);
  if (!place) throw new Refusal('not found', 'There is no such item.');
  const { folder, name, tallied } = place;
  for (const { id, root } of name === null ? [] : await listPlaces(house)) {
    const path = join(root, folder ?? '', name!);
    if (root && tallied.includes(id) && (await isThere(Buffer.from(path)))) return { path, name: name! };
  }
  throw new Refusal('not possible now', tallied.length ? 'No place that has a copy of it is here.' : 'It is not filed.');
}

/** Where an item's bytes can be seen: on the card, else in a copy that tallies. Kept previews serve when neither is there. */
export async function pictureSource(house: House, itemId: number): Promise<PreviewSource> {
  const place = await itemPlace(house.db, itemId);
  if (!place) throw new Refusal('not found', 'There is no such item.');
  const candidates: Buffer[] = place.present ? [joinBytes(place.sourcePath, place.pathBytes)] : [];
  if (place.name !== null) {
    for (const { id, root } of await listPlaces(house)) {
      if (root && place.tallied.includes(id)) candidates.push(Buffer.from(join(root, place.folder ?? '', place.name)));
    }
  }
  const common = { itemId, intakeId: place.intakeId, keptIn: place.uid, kind: place.kind, orientation: place.orientation };
  for (const path of candidates) if (await isThere(path)) return { ...common, path };
  return { ...common, path: candidates[0] ?? Buffer.from('/nowhere') };
}
