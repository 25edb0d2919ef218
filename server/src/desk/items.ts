import type { ItemView } from '@tally/contract';
import { dateDoubt } from '@tally/core/capture';
import { join } from 'node:path';
import { joinBytes } from '../drive/list-card.js';
import { isThere, type PreviewSource } from '../media/previews.js';
import { itemPlace, itemsOf } from '../store/items.js';
import { listPlaces } from '../store/places.js';
import { Refusal, type House } from './house.js';
import { houseTime } from './receive.js';

export async function itemViews(house: House, intakeId: number): Promise<ItemView[]> {
  const now = houseTime(house, house.clock());
  return (await itemsOf(house.db, intakeId)).map(({ pathBytes: _bytes, quickHash: _hash, modifiedAt: _time, ...item }) => ({
    ...item,
    captured: { ...item.captured, doubt: dateDoubt(item.captured, now) },
  }));
}

/** Where an item's bytes can be seen: on the card, else in a copy that tallies. Kept previews serve when neither is there. */
export async function pictureSource(house: House, itemId: number): Promise<PreviewSource> {
  const place = await itemPlace(house.db, itemId);
  if (!place) throw new Refusal('not found', 'There is no such item.');
  const candidates: Buffer[] = place.present ? [joinBytes(place.sourcePath, place.pathBytes)] : [];
  if (place.name !== null) {
    for (const { id, root } of await listPlaces(house.db)) {
      if (place.tallied.includes(id)) candidates.push(Buffer.from(join(root, place.folder ?? '', place.name)));
    }
  }
  const common = { itemId, intakeId: place.intakeId, kind: place.kind, orientation: place.orientation };
  for (const path of candidates) if (await isThere(path)) return { ...common, path };
  return { ...common, path: candidates[0] ?? Buffer.from('/nowhere') };
}
