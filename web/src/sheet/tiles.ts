import type { ItemView } from '@tally/contract';
import { cameraName } from '@tally/core/card';

/** An exposure, clip or recording on the sheet: the file that leads it and those that go with it. */
export interface Tile {
  readonly lead: ItemView;
  readonly companions: readonly ItemView[];
  /** What belongs to it and is set aside: thumbnails and small versions that the camera made. */
  readonly besides?: readonly ItemView[];
}

/** Names an object: paths of different cards may be the same. */
const objectKey = (item: ItemView): string => ('object' in item ? String(item.object) : item.leader);

/** Groups items by their objects, in the order of the items. */
export function tilesOf(items: readonly ItemView[]): Tile[] {
  const groups = new Map<string, ItemView[]>();
  const besides = new Map<string, ItemView[]>();
  for (const item of items) {
    const into = item.setAside === null ? groups : besides;
    const key = objectKey(item);
    const group = into.get(key);
    if (group) group.push(item);
    else into.set(key, [item]);
  }
  return [...groups].map(([key, members]) => {
    const lead = members.find((item) => item.path === item.leader) ?? members[0]!;
    return { lead, companions: members.filter((item) => item !== lead), besides: besides.get(key) ?? [] };
  });
}

/**
 * As `tilesOf`, each time made from what was made the time before: a tile of which nothing changed stays the very same, and
 * where only what items say changed, not which there are or what leads them, nothing else is made anew.
 */
export function tilesKept(): (items: readonly ItemView[]) => Tile[] {
  let before: readonly ItemView[] = [];
  let tiles: Tile[] = [];
  let at = new Map<string, number>();
  return (items) => {
    const changed = changedOnly(before, items);
    if (changed) {
      if (changed.length) {
        const now = new Map(changed.map((item) => [item.id, item]));
        const known = (item: ItemView) => now.get(item.id) ?? item;
        tiles = [...tiles];
        for (const index of new Set(changed.flatMap((item) => at.get(objectKey(item)) ?? []))) {
          const { lead, companions, besides = [] } = tiles[index]!;
          tiles[index] = { lead: known(lead), companions: companions.map(known), besides: besides.map(known) };
        }
      }
    } else {
      tiles = tilesOf(items);
      at = new Map(tiles.map(({ lead }, index) => [objectKey(lead), index]));
    }
    before = items;
    return tiles;
  };
}

/** The items that say something else than before; null when others are there, or they belong together in another way. */
function changedOnly(before: readonly ItemView[], items: readonly ItemView[]): ItemView[] | null {
  if (before.length !== items.length || !items.length) return null;
  const changed: ItemView[] = [];
  for (const [index, item] of items.entries()) {
    const was = before[index]!;
    if (was === item) continue;
    if (was.id !== item.id || was.leader !== item.leader || was.setAside !== item.setAside) return null;
    changed.push(item);
  }
  return changed;
}

/** Everything that belongs to it, in order: what leads, its parts, the rest. */
export function objectOf({ lead, companions, besides = [] }: Tile): ItemView[] {
  const rest = [...companions, ...besides].sort((a, b) => (a.part ?? 1e6) - (b.part ?? 1e6) || (a.path < b.path ? -1 : 1));
  return [lead, ...rest];
}

/** The parts of one recording, in the order in which they play; none when it is a single file. */
export const partsOf = (tile: Tile): ItemView[] =>
  objectOf(tile).filter(({ part, objectRole }) => part !== null && (objectRole === 'leader' || objectRole === 'part'));

/** How long it lasts, with all its chapters; tracks of one take last as long as the first. Milliseconds. */
export function lengthOf(tile: Tile): number {
  const parts = tile.lead.structure === 'recorder' ? [] : partsOf(tile);
  return (parts.length ? parts : [tile.lead]).reduce((sum, { durationMs }) => sum + (durationMs ?? 0), 0);
}

export const membersOf = ({ lead, companions }: Tile): readonly ItemView[] => [lead, ...companions];
export const nameOf = (item: ItemView): string => item.path.slice(item.path.lastIndexOf('/') + 1);
export const cameraOf = (item: ItemView): string => cameraName(item);
export const bodyKey = (item: Pick<ItemView, 'make' | 'model' | 'serial'>): string =>
  [item.make ?? '', item.model ?? '', item.serial ?? ''].join('\0');

/** Can it still be taken or left, split or moved in time? */
export const isOpen = ({ lead }: Tile): boolean => lead.filedAs === null;
export const isChangeable = (tile: Tile): boolean => isOpen(tile) && tile.lead.alreadyFiled === null && tile.lead.goneAt === null;

/** Can the intake go on without it? Not when it stands somewhere, whole. */
export const canBeSetAside = (item: ItemView): boolean =>
  item.aside === null &&
  item.goneAt === null &&
  item.alreadyFiled?.confirmed !== true &&
  !item.copies.some(({ state }) => state === 'tallied');
