/** How work is cut into batches, and how many of them are under way at once. */
export interface Cut {
  readonly items: number;
  readonly bytes: number;
  readonly lanes: number;
}

/** While the copies of one batch are read back, the next one is copied: the disk is never idle. */
const CUT: Cut = { items: 64, bytes: 64e6, lanes: 2 };

/**
 * Works through items batch by batch, in lanes that share one queue.
 * @param run answers whether to go on; after a no, or an error, no lane takes another batch. The first error is thrown
 * once every lane has come to rest.
 */
export async function inLanes<T extends { readonly bytes: number }>(
  items: readonly T[],
  run: (batch: readonly T[]) => Promise<boolean>,
  cut: Cut = CUT,
): Promise<void> {
  // One generator for all: leaving its loop ends it for the others too.
  const batches = batchesOf(items, cut);
  const lane = async () => {
    for (const batch of batches) if (!(await run(batch))) break;
  };
  const ended = await Promise.allSettled(Array.from({ length: cut.lanes }, lane));
  for (const end of ended) if (end.status === 'rejected') throw end.reason;
}

function* batchesOf<T extends { readonly bytes: number }>(items: readonly T[], cut: Cut): Generator<readonly T[]> {
  let batch: T[] = [];
  let bytes = 0;
  for (const item of items) {
    batch.push(item);
    bytes += item.bytes;
    if (batch.length < cut.items && bytes < cut.bytes) continue;
    yield batch;
    batch = [];
    bytes = 0;
  }
  if (batch.length) yield batch;
}
