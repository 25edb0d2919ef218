/**
 * Prepares each batch while the one before it is used: the disk does not wait for the database, nor the other way round.
 * @returns false when `mayGoOn` said no; what was used until then stays.
 */
export async function ahead<B, R>(
  batches: readonly B[],
  mayGoOn: () => Promise<boolean>,
  prepare: (batch: B) => Promise<R>,
  use: (batch: B, ready: R) => Promise<void>,
): Promise<boolean> {
  let next: Promise<R> | null = null;
  for (const [n, batch] of batches.entries()) {
    if (!(await mayGoOn())) {
      // Nobody needs it any more, nor why it failed.
      await next?.catch(() => undefined);
      return false;
    }
    const ready = await (next ?? prepare(batch));
    const after = batches[n + 1];
    next = after === undefined ? null : prepare(after);
    // Whoever waits for it is told; it may fail sooner than that.
    next?.catch(() => undefined);
    await use(batch, ready);
  }
  return true;
}
