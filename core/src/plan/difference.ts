import type { Plan } from './plan.js';

export interface PlanChange {
  readonly from: string;
  /** Path shown before; null when the item was not going to be filed. */
  readonly shown: string | null;
  /** Path now; null when it is not going to be filed any more. */
  readonly now: string | null;
}

/** What differs between the plan that was shown and the plan as it is now, in the order of the new one. */
export function planDifference(shown: Pick<Plan, 'placements'>, now: Pick<Plan, 'placements'>): PlanChange[] {
  const path = (p: { folder: string; name: string }) => (p.folder ? `${p.folder}/${p.name}` : p.name);
  const before = new Map(shown.placements.map((placement) => [placement.itemId, placement]));
  const changes: PlanChange[] = [];
  for (const placement of now.placements) {
    const old = before.get(placement.itemId);
    before.delete(placement.itemId);
    const was = old ? path(old) : null;
    if (was !== path(placement)) changes.push({ from: placement.from, shown: was, now: path(placement) });
  }
  for (const gone of before.values()) changes.push({ from: gone.from, shown: path(gone), now: null });
  return changes;
}

/** One text for all that a plan promises: two plans with the same text do the same. */
export function planText(plan: Pick<Plan, 'placements'>): string {
  return plan.placements.map((p) => `${p.itemId}\t${p.from}\t${p.folder}/${p.name}`).join('\n');
}
