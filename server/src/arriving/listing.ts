import { captureTime } from '@tally/core/capture';
import { DEFAULT_KEEPING, type Keeping, kindOf } from '@tally/core/card';
import { listCard } from '../drive/list-card.js';
import { type ListedItem, objectsOnCard } from '../seeing/index.js';

/**
 * Everything on a card with what paths and sizes alone tell: kinds, objects, what is set aside and why. Opens no file.
 * @param keeping how the house keeps structures: what they need is material.
 */
export async function listItems(root: string, houseZone: string, keeping: Keeping = DEFAULT_KEEPING): Promise<ListedItem[]> {
  const entries = await listCard(root);
  const placed = objectsOnCard(entries, keeping);
  return entries.map((entry) => ({
    ...entry,
    ...placed(entry.path),
    kind: kindOf(entry.path),
    captured: captureTime({ exifDates: [], fileTime: entry.modifiedAt }, houseZone),
  }));
}
