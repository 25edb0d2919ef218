import { captureTime } from '@tally/core/capture';
import { companionLeaders, kindOf, setAsideReason } from '@tally/core/card';
import { listCard } from '../drive/list-card.js';
import type { ListedItem } from '../seeing/index.js';

/** Everything on a card with what paths alone tell: kinds, companions, what is set aside and why. Opens no file. */
export async function listItems(root: string, houseZone: string): Promise<ListedItem[]> {
  const entries = await listCard(root);
  const material = entries.filter((entry) => entry.problem === null && setAsideReason(entry.path) === null);
  const leaders = companionLeaders(material);
  return entries.map((entry) => ({
    ...entry,
    kind: kindOf(entry.path),
    leader: leaders.get(entry.path) ?? entry.path,
    setAside: setAsideReason(entry.path),
    captured: captureTime({ exifDates: [], fileTime: entry.modifiedAt }, houseZone),
  }));
}
