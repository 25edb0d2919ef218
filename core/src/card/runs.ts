/** A stretch of items shot close together in time. */
export interface Run<T> {
  readonly items: readonly T[];
  /** First and last moment, as wall-clock milliseconds. */
  readonly fromMs: number;
  readonly toMs: number;
}

const MINUTE_MS = 60_000;
const DAY_MS = 86_400_000;

/** From few long runs (-3) to many short ones (3). */
export type Fineness = -3 | -2 | -1 | 0 | 1 | 2 | 3;

/**
 * Breaks items into runs: a new run starts on a new day, or after a gap much longer than this card's own rhythm
 * (eight times the median gap, at least 5 and at most 45 minutes). Items of one group are never split.
 * @param at wall-clock milliseconds of an item; items of a group should share the leader's.
 * @param dayStartMs how long after midnight a day begins.
 * @param fineness each step halves the gap that breaks a run, or doubles it.
 */
export function runsOf<T>(
  items: readonly T[],
  at: (item: T) => number,
  group: (item: T) => string,
  fineness: Fineness = 0,
  dayStartMs = 0,
): Run<T>[] {
  const ordered = [...items].sort((a, b) => at(a) - at(b));
  const gaps: number[] = [];
  for (let i = 1; i < ordered.length; i++) {
    const gap = at(ordered[i]!) - at(ordered[i - 1]!);
    if (gap > 0) gaps.push(gap);
  }
  gaps.sort((a, b) => a - b);
  const median = gaps[gaps.length >> 1] ?? MINUTE_MS;
  const longest = Math.min(45 * MINUTE_MS, Math.max(5 * MINUTE_MS, 8 * median)) * 2 ** -fineness;

  const dayOf = (ms: number) => Math.floor((ms - dayStartMs) / DAY_MS);
  const runs: { items: T[]; fromMs: number; toMs: number }[] = [];
  for (const item of ordered) {
    const ms = at(item);
    const last = runs.at(-1);
    const before = last?.items.at(-1);
    const sameDay = last && dayOf(last.toMs) === dayOf(ms);
    const together = before !== undefined && group(before) === group(item);
    if (last && (together || (sameDay && ms - last.toMs <= longest))) {
      last.items.push(item);
      last.toMs = Math.max(last.toMs, ms);
    } else runs.push({ items: [item], fromMs: ms, toMs: ms });
  }
  return runs;
}
