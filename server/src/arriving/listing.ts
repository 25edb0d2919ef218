import { captureTime } from '@tally/core/capture';
import { DEFAULT_KEEPING, type Keeping, kindOf, objectsOf, setAsideReason, systemReason } from '@tally/core/card';
import { listCard } from '../drive/list-card.js';
import type { ListedItem } from '../seeing/index.js';

/**
 * Everything on a card with what paths and sizes alone tell: kinds, objects, what is set aside and why. Opens no file.
 * @param keeping how the house keeps structures: what they need is material.
 */
export async function listItems(root: string, houseZone: string, keeping: Keeping = DEFAULT_KEEPING): Promise<ListedItem[]> {
  const entries = await listCard(root);
  const objects = objectsOf(entries.filter(({ path, problem }) => problem === null && systemReason(path) === null));
  return entries.map((entry) => {
    const one = objects.get(entry.path);
    return {
      ...entry,
      kind: kindOf(entry.path),
      leader: one?.object ?? entry.path,
      objectRole: one?.role ?? 'leader',
      part: one?.part ?? null,
      parts: one?.parts ?? null,
      structure: one?.structure ?? 'dcf',
      structureRoot: one?.root ?? null,
      series: one?.series ?? null,
      setAside: setAsideReason(entry.path, one, keeping),
      captured: captureTime({ exifDates: [], fileTime: entry.modifiedAt }, houseZone),
    };
  });
}
