import { dataSource, inTransaction, migrate } from './db/database.js';
import { randomBytes } from 'node:crypto';
import { chmod, mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { destination, pino, type Logger } from 'pino';
import pLimit from 'p-limit';
import { clockOf, type Clock } from './clock.js';
import { systemFiles } from './drive/files.js';
import { CardReader } from './media/reader.js';
import { Previews } from './media/previews.js';
import { ThoroughReader } from './media/thorough.js';
import { Urgency } from './media/urgency.js';
import type { Settings } from './settings.js';
import { INTERVALS, type Intervals } from './work/intervals.js';
import { Bus } from './live/bus.js';
import { Queue } from './work/queue.js';
import { Locks } from './db/locks.js';
import { waitForAll } from './filing/index.js';
import type { House } from './house/index.js';
import { mustCompareByBytes } from './db/paths.js';
import { LookKeeper } from './seeing/index.js';
import { savePlaces } from './driving/index.js';
import { ensureRule } from './rules/index.js';
import { goOnHere } from './audit/index.js';
import { endAllSessions } from './door/index.js';
import { forgetChanges } from './shelf/index.js';

/** More at once only makes the heads of a disk jump. */
const BATCHES_AT_ONCE = 2;

/** What lies in the data folder: pictures, receipts and files of people, for nobody else on this machine. */
const CLOSED = ['certificates', 'previews', 'receipts', 'arriving', 'handed-in', 'run'];

/** Makes a folder that only this process's user can enter; closes one that an earlier version left open. */
async function closedFolder(path: string): Promise<void> {
  await mkdir(path, { recursive: true });
  await chmod(path, 0o700);
}

/** Everything wired, for whichever way in: server, worker or command line. */
export interface Composition {
  readonly house: House;
  readonly queue: Queue;
  readonly urgency: Urgency;
  /** Not listening yet. */
  readonly bus: Bus;
  close(): Promise<void>;
}

/** What PostgreSQL says to whoever may not change a schema (insufficient_privilege; manual, appendix A). */
const MAY_NOT = '42501';

/** Where the owner's secret is not known, the schema is looked at, and not changed. @throws when it is of another version */
async function upToDate({ databaseAdminUrl, databaseUrl, databaseBackupUrl }: Settings): Promise<void> {
  try {
    await migrate(databaseAdminUrl ?? databaseUrl, databaseUrl, databaseBackupUrl);
  } catch (error) {
    if ((error as { code?: string }).code !== MAY_NOT) throw error;
    throw new Error('The database is of another version than this program. Its owner brings it up to date: tally migrate.', {
      cause: error,
    });
  }
}

/**
 * Opens the database and wires the house.
 * @param options.thorough an exiftool that others use, too: whoever gave it ends it
 * @throws when the database does not answer.
 */
export async function compose(
  settings: Settings,
  options: { log?: Logger; clock?: Clock; intervals?: Intervals; mountsOf?: string; thorough?: ThoroughReader } = {},
): Promise<Composition> {
  const intervals = options.intervals ?? INTERVALS;
  const mountsOf = options.mountsOf ?? settings.station;
  const log = options.log ?? pino({ level: settings.log }, destination({ dest: 2, sync: true }));
  await upToDate(settings);
  const onTrouble = (error: Error) => log.warn({ error: error.message }, 'a connection to the database was lost');
  const source = await dataSource(settings.databaseUrl, 10, onTrouble).initialize();
  await mustCompareByBytes(source.manager).catch(async (error: unknown) => {
    await source.destroy();
    throw error;
  });
  const clock = options.clock ?? clockOf(settings.clock);
  // Numbers of another PostgreSQL’s transactions say nothing here.
  if (await goOnHere(source.manager, clock())) {
    await forgetChanges(source.manager, 0);
    // Who was signed in then need not be now.
    await endAllSessions(source.manager);
  }
  for (const name of CLOSED) await closedFolder(join(settings.dataDir, name));
  await inTransaction(source.manager, async (tx) => {
    const newMark = () => randomBytes(12).toString('hex');
    for (const id of await savePlaces(tx, mountsOf, settings.places, newMark)) await waitForAll(tx, id);
  });
  await ensureRule(source.manager, clock());
  const queue = new Queue(settings.databaseUrl, log, intervals.jobsMs);
  const thorough = options.thorough ?? new ThoroughReader(join(settings.dataDir, 'run'));
  const reader = new CardReader(thorough, settings.zone);
  const urgency = new Urgency();
  const looks = new LookKeeper(source.manager, (error) => log.warn({ error: String(error) }, 'keeping looks'));
  const previews = new Previews(join(settings.dataDir, 'previews'), thorough, settings.previews, looks.add);
  const locks = new Locks(settings.databaseUrl, log);
  const bus = new Bus(settings.databaseUrl);
  const house: House = {
    ...{ db: source.manager, clock, settings, reader, jobs: queue, locks, previews, log, calm: urgency.calm, live: bus },
    ...{ files: systemFiles, turns: pLimit(BATCHES_AT_ONCE), intervals },
  };
  return {
    house,
    queue,
    urgency,
    bus,
    close: async () => {
      await looks.flush();
      await queue.stop();
      if (!options.thorough) await reader.close();
      await previews.close();
      await locks.close();
      await source.destroy();
    },
  };
}
