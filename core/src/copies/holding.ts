import type { Kind } from '../card/index.js';

/** What a place must hold a copy of. Null: everything. */
export interface Holding {
  readonly kinds: readonly Kind[] | null;
  /** Slugs. */
  readonly assignments: readonly string[] | null;
}

/** Must a place hold this item? One without an assignment belongs to places that hold every assignment only. */
export function mustHold(holding: Holding, item: { readonly kind: Kind; readonly assignment: string | null }): boolean {
  if (holding.kinds !== null && !holding.kinds.includes(item.kind)) return false;
  return holding.assignments === null || (item.assignment !== null && holding.assignments.includes(item.assignment));
}

const HOUR_MS = 3_600_000;

/**
 * For how many hours work is at risk that a place does not hold yet: since the oldest of it was filed, rounded up.
 * Zero when nothing waits.
 * @param oldestMs when the oldest item that waits was filed; null when none does.
 */
export function hoursAtRisk(oldestMs: number | null, nowMs: number): number {
  return oldestMs === null ? 0 : Math.max(1, Math.ceil((nowMs - oldestMs) / HOUR_MS));
}
