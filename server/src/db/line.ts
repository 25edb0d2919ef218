import type { LimitFunction } from 'p-limit';
import type pg from 'pg';

/*
 * How this program speaks to its database: every wait has a limit, on both sides of the line.
 */

/** A connection is opened within this, or not at all. */
const CONNECT_MS = 5_000;
/** No statement of ours takes longer; none waits longer for somebody else's lock; no transaction idles longer. */
const STATEMENT_MS = 30_000;
const LOCK_MS = 10_000;
const IDLE_IN_TRANSACTION_MS = 30_000;
/** A beat that is not answered within this: the line is lost. */
const BEAT_ANSWER_MS = 4_000;
const BEAT_EVERY_MS = 2_000;

/**
 * Lets the server end sessions whose other end fell silent within ten seconds, and with them their locks and
 * transactions (PostgreSQL 15 manual, section 20.3.2). Unix sockets know none of it, and need none.
 */
const NO_SILENCE = [
  ...['-c tcp_keepalives_idle=4', '-c tcp_keepalives_interval=2', '-c tcp_keepalives_count=3'],
  '-c tcp_user_timeout=10000',
].join(' ');

/**
 * What takes milliseconds must not be compiled first, which takes a second (PostgreSQL 15 manual, section 32.1), and a row
 * that is in memory or on flash costs little more where it lies alone than beside others (section 20.7.2).
 */
const SHORT_QUERIES = '-c jit=off -c random_page_cost=1.1';

const open = (name: string) => ({
  application_name: name,
  keepAlive: true,
  keepAliveInitialDelayMillis: 4_000,
  connectionTimeoutMillis: CONNECT_MS,
  options: `${NO_SILENCE} ${SHORT_QUERIES}`,
});

/** For pools, whose connections do short things. */
export const poolLine = (name: string) => ({
  ...open(name),
  statement_timeout: STATEMENT_MS,
  lock_timeout: LOCK_MS,
  idle_in_transaction_session_timeout: IDLE_IN_TRANSACTION_MS,
  query_timeout: STATEMENT_MS + 5_000,
});

/** For a connection that is kept open for what it holds or hears: use `heed` with it, which bounds its waits. */
export const keptLine = (url: string, name: string) => ({ ...open(name), connectionString: url });

/**
 * Notices within seconds that nobody answers at the other end of a kept connection, and cuts it: its `end` is heard then,
 * as when the server had ended it, and whatever waits for an answer is refused.
 * @param inTurn a connection answers one query at a time: every query of it goes through this. @returns how to stop.
 */
export function heed(client: pg.Client, inTurn: LimitFunction): () => void {
  let askedAt: number | null = null;
  const ask = () => {
    askedAt = Date.now();
    inTurn(() => client.query('select 1')).then(
      () => (askedAt = null),
      () => cut(client),
    );
  };
  const isSilent = () => askedAt !== null && Date.now() - askedAt > BEAT_ANSWER_MS;
  const beat = setInterval(() => {
    if (askedAt === null) ask();
    // This process may have been busy: what has arrived meanwhile is heard first.
    else if (isSilent()) setImmediate(() => isSilent() && cut(client));
  }, BEAT_EVERY_MS);
  beat.unref();
  return () => clearInterval(beat);
}

/** Ends a connection without a word to the other end, which may not be there. */
export function cut(client: pg.Client): void {
  (client as unknown as { connection: { stream: { destroy(): void } } }).connection.stream.destroy();
}
