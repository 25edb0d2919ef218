import type { ItemView } from '@tally/contract';
import { cameraName } from '@tally/core/card';

/** A picture on the sheet: the leading companion and those that go with it. */
export interface Tile {
  readonly lead: ItemView;
  readonly companions: readonly ItemView[];
}

/** Groups items with their companions, in the order of the items. */
export function tilesOf(items: readonly ItemView[]): Tile[] {
  const groups = new Map<string, ItemView[]>();
  for (const item of items) {
    const group = groups.get(item.leader);
    if (group) group.push(item);
    else groups.set(item.leader, [item]);
  }
  return [...groups].map(([leader, members]) => {
    const lead = members.find((item) => item.path === leader) ?? members[0]!;
    return { lead, companions: members.filter((item) => item !== lead) };
  });
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
