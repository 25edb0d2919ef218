import type { Shelf } from './shelf.js';

export const LIST_ORDERS = ['taken', 'name', 'bytes', 'contributor', 'camera', 'folder', 'filed'] as const;
export type ListOrder = (typeof LIST_ORDERS)[number];

/** Slots in another order than that of the shelf; equals stay as they are. @param descending for *taken*: newest first */
export function inOrder(shelf: Shelf, slots: Int32Array, order: ListOrder, descending: boolean): Int32Array {
  if (order === 'taken') return descending ? slots : slots.slice().reverse();
  const value = valueFor(shelf, order);
  const sorted = slots.slice().sort((a, b) => {
    const [one, other] = [value(a), value(b)];
    return (one < other ? -1 : one > other ? 1 : 0) * (descending ? -1 : 1);
  });
  return sorted;
}

function valueFor(shelf: Shelf, order: Exclude<ListOrder, 'taken'>): (slot: number) => number | string {
  switch (order) {
    case 'name':
      return (slot) => shelf.nameAt(slot);
    case 'bytes':
      return (slot) => shelf.bytes.at[slot]!;
    case 'filed':
      return (slot) => shelf.filedAtMs.at[slot]!;
    case 'contributor':
      return (slot) => shelf.records.contributor.get(shelf.contributor.at[slot]!)?.name ?? '\uFFFF';
    case 'camera':
      return (slot) => shelf.cameras.texts[shelf.camera.at[slot]!]!;
    case 'folder':
      return (slot) => shelf.folders.texts[shelf.folder.at[slot]!]!;
  }
}

/** Slots from a place on, the object that the last one belongs to whole. */
export function pageOf(shelf: Shelf, slots: Int32Array, from: number, count: number): Int32Array {
  let end = Math.min(slots.length, from + count);
  const object = shelf.object.at;
  while (end > 0 && end < slots.length && object[slots[end]!] === object[slots[end - 1]!]) end++;
  return slots.subarray(Math.min(from, slots.length), end);
}
