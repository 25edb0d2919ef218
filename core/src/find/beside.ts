import type { Shelf } from './shelf.js';

/** In up to so many bits of 64 two pictures are the same one in other sizes; in up to so many they look alike (core/looks). */
const SAME_BITS = 3;
const ALIKE_BITS = 10;

export interface Alike {
  readonly id: number;
  readonly how: 'the same' | 'beside' | 'looks like it';
  /** In how many of 64 bits it differs; null where that does not count. */
  readonly bits: number | null;
}

/**
 * What is like an item, over the whole house: the same picture in other sizes, the frames before and after it of the same
 * intake, and what looks like it. The nearest first. Empty when there is no such item.
 * @param most how many of each
 */
export function alikeTo(shelf: Shelf, id: number, most: number): Alike[] {
  const slot = shelf.slotFor(id);
  if (slot === undefined) return [];
  const object = shelf.object.at[slot];
  const look = shelf.lookAt(slot);
  const like = (look === null ? [] : shelf.alikes.like(look, ALIKE_BITS))
    .filter((one) => shelf.isAlive(one.slot) && shelf.object.at[one.slot] !== object)
    .sort((a, b) => a.bits - b.bits || shelf.before(a.slot, b.slot));
  const same = like.filter(({ bits }) => bits <= SAME_BITS).slice(0, most);
  const others = like.filter(({ bits }) => bits > SAME_BITS).slice(0, most);
  const found = new Set([...same, ...others].map((one) => one.slot));
  return [
    ...same.map((one) => ({ id: shelf.id.at[one.slot]!, how: 'the same' as const, bits: one.bits })),
    ...framesBeside(shelf, slot, Math.ceil(most / 2))
      .filter((one) => !found.has(one))
      .map((one) => ({ id: shelf.id.at[one]!, how: 'beside' as const, bits: null })),
    ...others.map((one) => ({ id: shelf.id.at[one.slot]!, how: 'looks like it' as const, bits: one.bits })),
  ];
}

/** Ids of the same picture in other objects, the nearest first: copies in other sizes, mostly. */
export function looksTheSame(shelf: Shelf, id: number): number[] {
  const slot = shelf.slotFor(id);
  const look = slot === undefined ? null : shelf.lookAt(slot);
  if (slot === undefined || look === null) return [];
  return shelf.alikes
    .like(look, SAME_BITS)
    .filter((one) => shelf.isAlive(one.slot) && shelf.object.at[one.slot] !== shelf.object.at[slot])
    .sort((a, b) => a.bits - b.bits || shelf.before(a.slot, b.slot))
    .map((one) => shelf.id.at[one.slot]!);
}

/** Slots of what leads the objects before and after one, of the same intake. */
function framesBeside(shelf: Shelf, slot: number, each: number): number[] {
  const ordered = shelf.ordered();
  let [low, high] = [0, ordered.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (shelf.before(ordered[middle]!, slot) < 0) low = middle + 1;
    else high = middle;
  }
  const walk = (step: 1 | -1) => {
    const found: number[] = [];
    // Others' pictures of the same minutes stand between: they are passed, but not without end.
    for (let at = low + step, passed = 0; found.length < each && passed < 1_000; at += step, passed++) {
      const other = ordered[at];
      if (other === undefined) break;
      const leads = shelf.id.at[other] === shelf.object.at[other];
      if (leads && shelf.intake.at[other] === shelf.intake.at[slot] && shelf.object.at[other] !== shelf.object.at[slot])
        found.push(other);
    }
    return found;
  };
  return [...walk(-1).reverse(), ...walk(1)];
}
