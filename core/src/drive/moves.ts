import { nameOf } from '../rule/index.js';
import { isSameTime, type KnownCopy, type Stood } from './compare.js';

/** A copy that is not where it was, and a stray that may be it: their bytes have to be compared. */
export interface MaybeMoved {
  readonly known: KnownCopy;
  /** The likeliest first: of the same time, then of the same name, then in the order of their paths. */
  readonly strays: readonly Stood[];
}

/**
 * Which strays may be copies that are missing: of the same size; a file that is moved or renamed keeps its time.
 * @param sizesMost strays of one size that are compared at most: a thousand empty files are nobody's.
 */
export function maybeMoved(absent: readonly KnownCopy[], strays: readonly Stood[], sizesMost = 50): MaybeMoved[] {
  const bySize = new Map<number, Stood[]>();
  for (const stray of strays) {
    if (stray.bytes === 0) continue;
    const alike = bySize.get(stray.bytes);
    if (alike) alike.push(stray);
    else bySize.set(stray.bytes, [stray]);
  }
  return absent.flatMap((known): MaybeMoved[] => {
    const alike = bySize.get(known.bytes) ?? [];
    const likely = (stray: Stood) =>
      (isSameTime(stray.modifiedMs, known.modifiedMs) ? 0 : 2) + (nameOf(stray.path) === nameOf(known.path) ? 0 : 1);
    const ordered = [...alike].sort((a, b) => likely(a) - likely(b) || (a.path < b.path ? -1 : 1)).slice(0, sizesMost);
    return ordered.length ? [{ known, strays: ordered }] : [];
  });
}
