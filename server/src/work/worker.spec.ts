import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { LiveEvent } from '@tally/contract';
import { rename } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { Bus } from '../live/bus.js';
import { makeCard } from '../testing/cards.js';
import { openHouse, until, workerOf, type TestHouse } from '../testing/house.js';
import type { Worker } from './worker.js';
import { beginFiling, planOf } from '../filing/index.js';
import { placeViews } from '../driving/index.js';
import { changeSlip } from '../slip/index.js';
import { eventsOf, intakesWhere, theIntake } from '../house/index.js';

let test: TestHouse;
let workers: Worker[];
let bus: Bus;
const heard: LiveEvent[] = [];

beforeAll(async () => {
  test = await openHouse({}, [{ id: 'offsite', kind: 'off-site copy' }]);
  bus = new Bus(test.settings.databaseUrl);
  bus.start();
  bus.listen((event) => heard.push(event));
  // Two for one station: one watches its readers, both take its jobs.
  workers = [workerOf(test), workerOf(test)];
  for (const worker of workers) await worker.start();
});
afterAll(async () => {
  for (const worker of workers) await worker.stop();
  await bus.stop();
  await test.end();
});

const reader = (volume: string) => join(test.folder, 'reader', volume);
const intakesOf = (volume: string) => intakesWhere(test.house.db, 'k.volume = $1', [volume]);

/** Puts a whole card in at once, as a mount does. */
async function putIn(volume: string, files: Record<string, number>, seed: number): Promise<number> {
  await makeCard(join(test.folder, 'making', volume), files, seed);
  await rename(join(test.folder, 'making', volume), reader(volume));
  const intake = await until(async () => (await intakesOf(volume)).find((one) => one.read === one.items));
  return intake.id;
}

describe('a station at work', () => {
  it('opens exactly one intake for a card that comes, and reads it', async () => {
    await makeCard(join(test.folder, 'making/FIRST'), { '1.JPG': 100, '2.JPG': 200 }, 1);
    await rename(join(test.folder, 'making/FIRST'), reader('FIRST'));
    await until(async () => (await intakesOf('FIRST')).length > 0);
    await sleep(1500);
    const [intake, ...others] = await intakesOf('FIRST');
    expect(others).toEqual([]);
    expect(intake).toMatchObject({ present: true, tray: 'in', items: 2, station: 'Test station' });
  });

  it('files by itself once told to, and says so to whoever listens', async () => {
    const id = await putIn('FILED', { '1.JPG': 1000, '2.JPG': 2000 }, 2);
    await changeSlip(test.house, id, test.slip, 'wren');
    const { view } = await planOf(test.house, id);
    heard.length = 0;
    await beginFiling(test.house, id, view.seal, 'wren');
    await until(async () => (await theIntake(test.house, id)).state === 'tallied');
    await until(() =>
      Promise.resolve(heard.some((event) => event.type === 'intake' && event.intakeId === id && event.state === 'tallied')),
    );
    const progress = heard.flatMap((event) => (event.type === 'progress' ? [event.progress] : []));
    expect(progress.at(-1)).toMatchObject({ intakeId: id, items: 2, itemsDone: 2, bytes: 3000, bytesDone: 3000 });
    expect(progress.flatMap(({ tallied }) => tallied)).toHaveLength(2);
    await until(() => Promise.resolve(heard.some((event) => event.type === 'written' && event.intakeId === id)));
    expect((await eventsOf(test.house.db, id)).filter((event) => event.kind === 'tallied')).toHaveLength(1);
  });

  it('finds an intake whose job was lost', async () => {
    const id = await putIn('LOST', { '1.JPG': 1001 }, 3);
    await changeSlip(test.house, id, test.slip, 'wren');
    const { view } = await planOf(test.house, id);
    const lossy = {
      ...test.house,
      jobs: { read: () => Promise.resolve(), file: () => Promise.resolve(), card: () => Promise.resolve() },
    };
    await beginFiling(lossy, id, view.seal, 'wren');
    await until(async () => (await theIntake(test.house, id)).state === 'tallied');
  });

  it('a job sent in a transaction that is undone never runs', async () => {
    const id = await putIn('UNDONE', { '1.JPG': 1002 }, 4);
    const undone = test.house.db.transaction(async (tx) => {
      await test.queue.file(tx, id, test.settings.station);
      throw new Error('undone');
    });
    await expect(undone).rejects.toThrow('undone');
    const sent = async () => {
      const [{ n }] = await test.house.db.query<[{ n: number }]>(
        `select count(*)::int as n from pgboss.job where name like 'file-%' and (data->>'id')::int = $1`,
        [id],
      );
      return n;
    };
    expect(await sent()).toBe(0);
    // The same without the undoing is there, so that this can fail.
    await test.queue.file(test.house.db, id, test.settings.station);
    expect(await sent()).toBe(1);
  });

  it('notices a card that goes, and knows it when it is back', async () => {
    const id = await putIn('GONE', { '1.JPG': 1003 }, 5);
    await rename(reader('GONE'), join(test.folder, 'in-a-pocket'));
    await until(async () => !(await theIntake(test.house, id)).present);
    await rename(join(test.folder, 'in-a-pocket'), reader('GONE'));
    await until(async () => (await theIntake(test.house, id)).present);
    expect(await intakesOf('GONE')).toHaveLength(1);
    expect((await eventsOf(test.house.db, id)).map((event) => event.kind)).toEqual(
      expect.arrayContaining(['card gone', 'card back']),
    );
  });

  it('receives a card that is back once, however old what it knows of the reader may be', async () => {
    for (const worker of workers) await worker.stop();
    const house = { ...test.house, intervals: { ...test.house.intervals, lyingMs: 600_000 } };
    workers = [workerOf({ ...test, house })];
    await workers[0]!.start();
    const id = await putIn('BACK', { '1.JPG': 1010 }, 9);
    await rename(reader('BACK'), join(test.folder, 'in-a-bag'));
    await until(async () => !(await theIntake(test.house, id)).present);
    await rename(join(test.folder, 'in-a-bag'), reader('BACK'));
    await until(async () => (await theIntake(test.house, id)).present);
    await sleep(12 * house.intervals.readersMs);
    const [{ n }] = await test.house.db.query<[{ n: number }]>(
      `select count(*)::int as n from pgboss.job where name like 'read-%' and (data->>'id')::int = $1`,
      [id],
    );
    // When it came, and when it was back.
    expect(n).toBe(2);
  });

  it('a place that was away is caught up with by itself when it is back', async () => {
    const id = await putIn('LATER', { '1.JPG': 1005, '2.JPG': 1006 }, 7);
    await changeSlip(test.house, id, test.slip, 'wren');
    await rename(test.second, `${test.second}-away`);
    // The sweep has to see it away before it can see it come back.
    await sleep(4 * test.house.intervals.sweepMs);
    const { view } = await planOf(test.house, id);
    await beginFiling(test.house, id, view.seal, 'wren');
    await until(async () => (await theIntake(test.house, id)).state === 'needs attention');
    await rename(`${test.second}-away`, test.second);
    await until(async () => (await theIntake(test.house, id)).state === 'tallied');
  });

  it('a place somewhere else is filled up by itself, after it was away too', async () => {
    const offsite = join(test.folder, 'offsite');
    const waits = async () => (await placeViews(test.house)).find(({ id }) => id === 'offsite')!.waiting.copies;
    await until(async () => (await waits()) === 0);
    await rename(offsite, `${offsite}-cut`);
    const id = await putIn('ELSEWHERE', { '1.JPG': 1007, '2.JPG': 1008 }, 8);
    await changeSlip(test.house, id, test.slip, 'wren');
    const { view } = await planOf(test.house, id);
    await beginFiling(test.house, id, view.seal, 'wren');
    await until(async () => (await theIntake(test.house, id)).state === 'tallied');
    expect(await waits()).toBe(2);
    await sleep(4 * test.house.intervals.sweepMs);
    expect(await waits()).toBe(2);
    await rename(`${offsite}-cut`, offsite);
    await until(async () => (await waits()) === 0);
  });

  it('listeners hear again after the connection to the database was lost', async () => {
    const owner = new pg.Client({ connectionString: test.database.adminUrl });
    await owner.connect();
    await owner.query(
      `select pg_terminate_backend(pid) from pg_stat_activity where application_name = 'tally-live' and datname = current_database()`,
    );
    await owner.end();
    heard.length = 0;
    // Told to look again, since something may have been missed; and new events come.
    await until(() => Promise.resolve(heard.some((event) => event.type === 'again')));
    await putIn('AFTER', { '1.JPG': 1004 }, 6);
    await until(() => Promise.resolve(heard.some((event) => event.type === 'items')));
  });
});
