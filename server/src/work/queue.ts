import { createHash } from 'node:crypto';
import type { LiveEvent } from '@tally/contract';
import PgBoss from 'pg-boss';
import type { Logger } from 'pino';
import { type Db, tryingAgain } from '../db/database.js';
import { AnsweredPool } from '../db/answered-pool.js';
import { LIVE_CHANNEL } from '../live/channel.js';

export type JobKind = 'read' | 'file' | 'card';

/** So many jobs are begun at one look. */
const BATCH = 20;

/** Jobs that need a reader wait in the queue of its station. */
const queueName = (kind: JobKind, station: string) =>
  `${kind}-${createHash('sha256').update(station).digest('hex').slice(0, 12)}`;

/** The queue in PostgreSQL (pg-boss), shared by any number of processes. */
export class Queue {
  private readonly boss: PgBoss;
  private readonly pool: AnsweredPool;
  private readonly made = new Set<string>();
  private readonly workers = new Map<JobKind, string[]>();

  constructor(
    url: string,
    log: Logger,
    private readonly lookMs: number,
  ) {
    // A database that restarts is no reason to die: pg-boss goes on when it is back.
    const onError = (error: Error) => log.warn({ error: error.message }, 'queue');
    // pg-boss would end a pool of its own while lanes wait for a connection of it, and those would wait for ever.
    this.pool = new AnsweredPool(url, 'tally-queue', 4, onError);
    this.boss = new PgBoss({ db: this.pool, schema: 'pgboss', supervise: true, schedule: false });
    this.boss.on('error', onError);
  }

  /** Begins when somebody first sends or takes a job: most commands need no queue. */
  private starting: Promise<unknown> | null = null;

  async start(): Promise<void> {
    this.starting ??= this.boss.start().catch((error: unknown) => {
      // The next one tries again.
      this.starting = null;
      throw error;
    });
    await this.starting;
  }

  async stop(): Promise<void> {
    const begun = await this.starting?.then(
      () => true,
      () => false,
    );
    if (begun) await this.boss.stop({ graceful: true, timeout: 3_000, wait: true }).catch(() => undefined);
    await this.pool.end();
  }

  read(db: Db, intakeId: number, station: string): Promise<void> {
    return this.send('read', db, intakeId, station);
  }

  file(db: Db, intakeId: number, station: string): Promise<void> {
    return this.send('file', db, intakeId, station);
  }

  card(db: Db, workId: number, station: string): Promise<void> {
    return this.send('card', db, workId, station);
  }

  /**
   * Takes jobs of a kind for a station. A job only begins its work: a sweep finds what is left of it. Who sends one tells
   * (`wake`); should that be missed, it is looked for.
   */
  async work(kind: JobKind, station: string, handle: (id: number) => void): Promise<void> {
    const name = await this.ensure(kind, station);
    const looks = { pollingIntervalSeconds: this.lookMs / 1000, batchSize: BATCH };
    const worker = await this.boss.work<{ id: number }>(name, looks, (jobs) => {
      for (const job of jobs) handle(job.data.id);
      return Promise.resolve();
    });
    this.workers.set(kind, [...(this.workers.get(kind) ?? []), worker]);
  }

  /** A job of a kind waits: it is taken now. */
  wake(kind: JobKind): void {
    for (const worker of this.workers.get(kind) ?? []) this.boss.notifyWorker(worker);
  }

  private async send(kind: JobKind, db: Db, id: number, station: string): Promise<void> {
    const name = await this.ensure(kind, station);
    const executeSql = async (text: string, values: unknown[]) => ({ rows: await db.query<unknown[]>(text, values) });
    await this.boss.send(name, { id }, { retryLimit: 3, retryDelay: 2, expireInHours: 12, db: { executeSql } });
    // In a transaction it is told when that commits.
    const told: LiveEvent = { type: 'work', kind, station };
    await db.query('select pg_notify($1, $2)', [LIVE_CHANNEL, JSON.stringify(told)]);
  }

  private async ensure(kind: JobKind, station: string): Promise<string> {
    const name = queueName(kind, station);
    await this.start();
    if (!this.made.has(name)) {
      await tryingAgain(() => this.boss.createQueue(name));
      this.made.add(name);
    }
    return name;
  }
}
