import { createHash } from 'node:crypto';
import pLimit from 'p-limit';
import pg from 'pg';
import type { Logger } from 'pino';
import type { Db } from './database.js';
import { cut, heed, keptLine } from './line.js';
import { KINDS, type LockKind } from './lock-kinds.js';

/** The second half of the key: ids as they are, names by their hash. */
const keyOf = (of: number | string): number =>
  typeof of === 'number' ? of : createHash('sha256').update(of).digest().readInt32BE(0);

/** Somebody waits for a turn so long, and asks again later. */
const TURN_MS = 60_000;
const CLOSED = 'locks were given back: this process ends';
/** The database's word for a lock that did not come free in time (PostgreSQL 15 manual, appendix A). */
const LOCK_NOT_AVAILABLE = '55P03';

/** Waits until nobody else does the same, and keeps others waiting until the transaction ends. */
export async function holdUntilEnd(tx: Db, kind: LockKind, of: number | string): Promise<void> {
  await tx.query('select pg_advisory_xact_lock($1, $2)', [KINDS[kind], keyOf(of)]);
}

/** The same, without waiting. @returns false when somebody else does it. */
export async function holdIfFree(tx: Db, kind: LockKind, of: number | string): Promise<boolean> {
  const [{ locked }] = await tx.query<[{ locked: boolean }]>('select pg_try_advisory_xact_lock($1, $2) as locked', [
    ...[KINDS[kind], keyOf(of)],
  ]);
  return locked;
}

/** Does anybody do that now, in whatever process? */
export async function isHeld(db: Db, kind: LockKind, of: number | string): Promise<boolean> {
  const [{ held }] = await db.query<[{ held: boolean }]>(
    `select exists (select from pg_locks where locktype = 'advisory' and granted and objsubid = 2
       and database = (select oid from pg_database where datname = current_database())
       and classid = $1 and objid = $2::bigint) as held`,
    [KINDS[kind], keyOf(of) >>> 0],
  );
  return held;
}

/**
 * Locks that outlast a transaction, all on one connection of their own: whoever holds many takes none from the pool. They
 * are gone when the process dies or the connection does.
 */
export class Locks {
  private client: Promise<pg.Client> | null = null;
  /** A connection answers one query at a time. */
  private readonly inTurn = pLimit(1);
  private readonly held = new Map<string, AbortController>();
  /** Connections of those who wait for a turn, or have it. */
  private readonly turns = new Set<pg.Client>();
  private closed = false;

  constructor(
    private readonly url: string,
    private readonly log: Logger,
  ) {}

  /**
   * Runs a function while holding a lock. When the connection is lost the signal tells it to stop, since somebody else may
   * have taken over.
   * @returns false when somebody else holds the lock, in this process or another.
   */
  async hold(
    kind: LockKind,
    of: number | string,
    outer: AbortSignal,
    run: (signal: AbortSignal) => Promise<void>,
  ): Promise<boolean> {
    const name = `${kind} ${of}`;
    if (this.held.has(name)) return false;
    const lost = new AbortController();
    this.held.set(name, lost);
    const key = [KINDS[kind], keyOf(of)];
    try {
      const client = await this.connected();
      const { rows } = await this.inTurn(() =>
        client.query<{ locked: boolean }>('select pg_try_advisory_lock($1, $2) as locked', key),
      );
      if (!rows[0]!.locked) return false;
      try {
        await run(AbortSignal.any([outer, lost.signal]));
        return true;
      } finally {
        // With the connection the lock is gone already.
        if (!lost.signal.aborted)
          await this.inTurn(() => client.query('select pg_advisory_unlock($1, $2)', key)).catch(this.unlockFailed);
      }
    } finally {
      this.held.delete(name);
    }
  }

  /**
   * The same, waiting for a turn: the database queues whoever wants it, in this process or another, first come first served,
   * so that nobody who takes it again and again keeps others out. Whoever waits does so on a connection of its own.
   * @returns false when the turn did not come in time, or whoever waited was told to stop.
   */
  async holdInTurn(
    kind: LockKind,
    of: number | string,
    outer: AbortSignal,
    run: (signal: AbortSignal) => Promise<void>,
    waitMs = TURN_MS,
  ): Promise<boolean> {
    if (await this.hold(kind, of, outer, run)) return true;
    if (outer.aborted) return false;
    const lost = new AbortController();
    if (this.closed) throw new Error(CLOSED);
    const client = new pg.Client(keptLine(this.url, 'tally-turns'));
    this.turns.add(client);
    const onLost = () => lost.abort(new Error('the connection to the database was lost'));
    client.on('error', onLost);
    client.on('end', onLost);
    try {
      await client.connect();
      if (!(await hasTurn(client, [KINDS[kind], keyOf(of)], outer, waitMs))) return false;
      const stopHeeding = heed(client, pLimit(1));
      try {
        await run(AbortSignal.any([outer, lost.signal]));
        return true;
      } finally {
        stopHeeding();
      }
    } finally {
      this.turns.delete(client);
      // The lock goes with its connection.
      await client.end().catch((error: unknown) => this.log.warn({ error: String(error) }, 'a turn'));
    }
  }

  /** Gives everything back. Nobody gets a lock afterwards. */
  async close(): Promise<void> {
    this.closed = true;
    for (const turn of this.turns) cut(turn);
    const client = this.client;
    this.client = null;
    await client?.then((open) => open.end()).catch((error: unknown) => this.log.warn({ error: String(error) }, 'locks'));
  }

  private readonly unlockFailed = (error: unknown) => this.log.warn({ error: String(error) }, 'a lock could not be given back');

  private connected(): Promise<pg.Client> {
    if (this.closed) return Promise.reject(new Error(CLOSED));
    this.client ??= this.connect().catch((error: unknown) => {
      this.client = null;
      throw error;
    });
    return this.client;
  }

  private async connect(): Promise<pg.Client> {
    const client = new pg.Client(keptLine(this.url, 'tally-locks'));
    let isLost = false;
    const onLost = (error?: Error) => {
      if (isLost) return;
      isLost = true;
      stopHeeding();
      this.client = null;
      if (this.held.size)
        this.log.warn({ error: error?.message, held: this.held.size }, 'the connection that holds locks was lost');
      for (const lost of this.held.values()) lost.abort(new Error('the connection to the database was lost'));
    };
    let stopHeeding: () => void = () => undefined;
    client.on('error', onLost);
    client.on('end', () => onLost());
    await client.connect();
    stopHeeding = heed(client, this.inTurn);
    return client;
  }
}

/** Waits in the database's queue. */
async function hasTurn(client: pg.Client, key: readonly number[], outer: AbortSignal, waitMs: number): Promise<boolean> {
  const giveUp = () => cut(client);
  outer.addEventListener('abort', giveUp, { once: true });
  // A server that fell silent does not say that the time is over.
  const silent = setTimeout(giveUp, waitMs + 5_000);
  try {
    await client.query(`set lock_timeout = ${waitMs}`);
    await client.query('select pg_advisory_lock($1, $2)', [...key]);
    return !outer.aborted;
  } catch (error) {
    if (outer.aborted || (error as { code?: string }).code === LOCK_NOT_AVAILABLE) return false;
    throw error;
  } finally {
    clearTimeout(silent);
    outer.removeEventListener('abort', giveUp);
  }
}
