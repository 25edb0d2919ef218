import glob from 'fast-glob';
import { setTimeout as sleep } from 'node:timers/promises';

export interface ReaderChanges {
  readonly appeared: readonly string[];
  readonly vanished: readonly string[];
  /** Every card that is there. */
  readonly now: ReadonlySet<string>;
}

/** Folders that match the readers' patterns now: the cards. */
export async function cardsNow(patterns: readonly string[]): Promise<Set<string>> {
  const found = await glob([...patterns], {
    onlyDirectories: true,
    followSymbolicLinks: false,
    suppressErrors: true,
    absolute: true,
    dot: false,
  });
  return new Set(found);
}

/**
 * Yields at every look what appeared and vanished since the last one, first everything that is there. Mounts raise no
 * events that every system delivers: looking is the only sure way. Ends when told to.
 */
export async function* watchReaders(
  patterns: readonly string[],
  signal: AbortSignal,
  everyMs: number,
): AsyncGenerator<ReaderChanges> {
  let before = new Set<string>();
  while (!signal.aborted) {
    const now = await cardsNow(patterns);
    const appeared = [...now].filter((path) => !before.has(path)).sort();
    const vanished = [...before].filter((path) => !now.has(path));
    before = now;
    yield { appeared, vanished, now };
    try {
      await sleep(everyMs, undefined, { signal });
    } catch {
      return;
    }
  }
}
