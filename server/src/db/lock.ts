import type { DataSource } from 'typeorm';

/** Something only one process may do at a time. Kinds are the first half of PostgreSQL's advisory lock key. */
export const LOCKS = { filing: 7302, reading: 7303, watching: 7304, filling: 7305 } as const;

/**
 * Runs a function while holding an advisory lock on a connection of its own. The lock is gone when the process dies or
 * its connection does; the signal then tells the function to stop, since somebody else may have taken over.
 * @returns false when somebody else holds the lock.
 */
export async function whileLocked(
  source: DataSource,
  kind: keyof typeof LOCKS,
  id: number,
  outer: AbortSignal,
  run: (signal: AbortSignal) => Promise<void>,
): Promise<boolean> {
  const runner = source.createQueryRunner();
  const lost = new AbortController();
  const onLost = () => lost.abort(new Error('the connection to the database was lost'));
  try {
    const client = (await runner.connect()) as NodeJS.EventEmitter;
    client.once('error', onLost);
    client.once('end', onLost);
    try {
      const [{ locked }] = (await runner.query('select pg_try_advisory_lock($1, $2) as locked', [LOCKS[kind], id])) as [
        { locked: boolean },
      ];
      if (!locked) return false;
      await run(AbortSignal.any([outer, lost.signal]));
      return true;
    } finally {
      client.off('error', onLost);
      client.off('end', onLost);
      if (!lost.signal.aborted) await runner.query('select pg_advisory_unlock_all()').catch(() => undefined);
    }
  } finally {
    await runner.release().catch(() => undefined);
  }
}
