import { houseDay, MIDNIGHT, wallClockMs, type DateDoubt } from '../capture/index.js';
import { reasonLeft, type PlanItem, type PlanSlip } from './items.js';

export interface PlanDoubt {
  readonly itemId: number;
  readonly doubt: string;
}

const DAY_MS = 86_400_000;
/** Pictures of an assignment are taken on its days, or a little before and after. Common practice, no source. */
const DAYS_AROUND = 2;
/** Farther than this from everything else on the card is far. Common practice, no source. */
const DAYS_APART = 30;

/**
 * Dates that should be looked at before files are named by them: what the items themselves give rise to (`own`), days
 * away from the assignment, and single items far from all others on the card. Only items that would be filed, leaders
 * for their companions; an index is of no date.
 */
export function planDoubts(
  items: readonly PlanItem[],
  slip: PlanSlip,
  own: ReadonlyMap<number, DateDoubt> = new Map(),
  dayBegins = MIDNIGHT,
): PlanDoubt[] {
  const leading = items.filter((item) => reasonLeft(item) === null && item.leader === item.path && item.objectRole !== 'index');
  const alone = farFromTheRest(leading);
  return leading.flatMap((item): PlanDoubt[] => {
    const known = own.get(item.id);
    if (known) return [{ itemId: item.id, doubt: known }];
    const away = daysAway(houseDay(item.captured, dayBegins), item.assignment ?? slip.assignment);
    if (away > DAYS_AROUND) return [{ itemId: item.id, doubt: `${away} days from the assignment` }];
    const days = alone.get(item);
    return days === undefined ? [] : [{ itemId: item.id, doubt: `${days} days from everything else on the card` }];
  });
}

/** Whole days between a day and the days of an assignment; 0 on one of them, or when they are not known. */
function daysAway(filed: string, assignment: PlanSlip['assignment']): number {
  if (!assignment?.from) return 0;
  const day = wallClockMs(`${filed}T00:00:00`);
  const [from, to] = [assignment.from, assignment.to ?? assignment.from].map((text) => wallClockMs(`${text}T00:00:00`));
  return Math.max(0, Math.round((from! - day) / DAY_MS), Math.round((day - to!) / DAY_MS));
}

function farFromTheRest(items: readonly PlanItem[]): Map<PlanItem, number> {
  const sorted = [...items].sort((a, b) => wallClockMs(a.captured) - wallClockMs(b.captured));
  const far = new Map<PlanItem, number>();
  if (sorted.length < 4) return far;
  for (const [index, item] of sorted.entries()) {
    const gaps = [sorted[index - 1], sorted[index + 1]]
      .filter((other) => other !== undefined)
      .map((other) => Math.abs(wallClockMs(item.captured) - wallClockMs(other.captured)) / DAY_MS);
    const nearest = Math.floor(Math.min(...gaps));
    if (nearest > DAYS_APART) far.set(item, nearest);
  }
  return far;
}
