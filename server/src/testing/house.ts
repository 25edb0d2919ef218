import { inTransaction } from '../db/database.js';
import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { setTimeout as sleep } from 'node:timers/promises';
import { join } from 'node:path';
import { compose, type Composition } from '../composition.js';
import { type Files, systemFiles } from '../drive/files.js';
import type { z } from 'zod';
import { Settings } from '../settings.js';
import type { Intervals } from '../work/intervals.js';
import { Worker } from '../work/worker.js';
import { worksOf } from '../works.js';
import { freshDatabase, type FreshDatabase } from './database.js';
import { sharedReader } from './thorough.js';
import { happens, type House } from '../house/index.js';
import { beginFiling, carryOut, planOf } from '../filing/index.js';
import { makeAssignment, makeContributor } from '../people/index.js';
import { readIntake, receiveCard } from '../arriving/index.js';
import { changeSlip } from '../slip/index.js';

/** A whole house in a scratch folder: real database, real places, a clock that stands still. */
export interface TestHouse extends Composition {
  readonly folder: string;
  readonly database: FreshDatabase;
  readonly settings: Settings;
  readonly clock: { now: Date };
  readonly shared: string;
  readonly second: string;
  /** A contributor IB and an assignment reed-planting. */
  readonly slip: { contributorId: number; assignmentId: number };
  end(): Promise<void>;
}

export const NOW = new Date('2026-04-21T16:42:00Z');
/** Nothing is waited for longer than it takes. */
const QUICK: Intervals = {
  sweepMs: 250,
  retryMs: 300,
  readersMs: 80,
  lyingMs: 80,
  arrivalsMs: 60,
  folderMs: 1_500,
  haltMs: 40,
  jobsMs: 500,
  standbyMs: 200,
  roundsMs: 300,
};

export const never = new AbortController().signal;

/** @param extra further places; their roots are names in the scratch folder. @param files a device that fails. */
export async function openHouse(
  change: Partial<z.input<typeof Settings>> = {},
  extra: readonly { id: string; kind: 'off-site copy' | 'archive' | 'second copy'; [setting: string]: unknown }[] = [],
  files?: Partial<Files>,
): Promise<TestHouse> {
  const folder = await mkdtemp(join(tmpdir(), 'tally-house-'));
  const database = await freshDatabase();
  const [shared, second] = [join(folder, 'shared'), join(folder, 'second')];
  const settings = Settings.parse({
    databaseUrl: database.appUrl,
    databaseAdminUrl: database.adminUrl,
    dataDir: join(folder, 'data'),
    house: 'Ostrel Bay Tidelands Trust',
    zone: 'Europe/London',
    station: 'Test station',
    readers: [join(folder, 'reader/*')],
    places: [
      { id: 'shared', name: 'Shared drive', kind: 'shared drive', root: shared },
      { id: 'second', name: 'Second copy', kind: 'second copy', root: second },
      ...extra.map((place) => ({ name: place.id, root: join(folder, place.id), ...place })),
    ],
    systemDisk: 'knowingly',
    backup: 'by hand',
    log: (process.env['TALLY_TEST_LOG'] as 'error' | undefined) ?? 'silent',
    ...change,
  });
  for (const path of [join(folder, 'reader'), ...settings.places.map(({ root }) => root)]) await mkdir(path, { recursive: true });
  const clock = { now: NOW };
  const composed = await compose(settings, { clock: () => clock.now, intervals: QUICK, thorough: sharedReader() });
  const house = { ...composed.house, ...(files ? { files: { ...systemFiles, ...files } } : {}) };
  const composition = { ...composed, house };
  const slip = await makeSlip(house);
  return {
    ...composition,
    ...{ folder, database, settings, clock, shared, second, slip },
    end: async () => {
      await composition.close();
      await database.drop();
      await rm(folder, { recursive: true, force: true });
    },
  };
}

/** A contributor IB and an assignment reed-planting, for a house that has none. */
export async function makeSlip(house: House): Promise<TestHouse['slip']> {
  const contributorId = await makeContributor(house, { name: 'Ines Barrow', code: 'IB' }, 'test');
  const assignment = {
    title: 'Reed planting day',
    slug: 'reed-planting',
    code: '',
    from: '2026-04-18',
    to: '2026-04-18',
    place: '',
    expectedCards: 1,
  };
  const assignmentId = await makeAssignment(house, { ...assignment, expectedContributorIds: [contributorId] }, 'test');
  return { contributorId, assignmentId };
}

/**
 * The same places and data folder with another database, as after that was lost or brought back.
 * @param change where its settings differ
 */
export async function anotherLife(test: TestHouse, database: FreshDatabase, change: Partial<Settings> = {}): Promise<TestHouse> {
  const settings = { ...test.settings, databaseUrl: database.appUrl, databaseAdminUrl: database.adminUrl, ...change };
  const clock = { now: test.clock.now };
  const composed = await compose(settings, { clock: () => clock.now, intervals: QUICK, thorough: sharedReader() });
  return {
    ...{ ...test, ...composed, settings, database, clock },
    end: async () => {
      await composed.close();
      await database.drop();
    },
  };
}

/** Receives, reads and says what a card is. @returns the intake's id. */
export async function bring(test: TestHouse, card: string, slip: Partial<TestHouse['slip']> = test.slip): Promise<number> {
  const id = await receiveCard(test.house, card, 'test');
  await readIntake(test.house, id, never);
  await changeSlip(test.house, id, slip, 'test');
  return id;
}

/** Files what the plan shows, to the end. */
export async function fileNow(house: House, intakeId: number, signal = never): Promise<void> {
  const { view } = await planOf(house, intakeId);
  const answer = await beginFiling(house, intakeId, view.seal, 'test');
  if (answer.outcome !== 'begun') throw new Error('the plan changed');
  await carryOut(house, intakeId, signal);
}

/** What a station does by itself. @param watches false: nobody looks at its readers, so that a card may lie anywhere. */
export function workerOf({ house, queue, settings }: TestHouse, watches = true): Worker {
  const works = worksOf(house).map((work) => (watches ? work : { ...work, loops: [] }));
  return new Worker(works, queue, settings.station, house.intervals, house.log, house.live);
}

/** A card is taken out of its reader. */
export const pull = (house: House, intakeId: number): Promise<unknown> =>
  inTransaction(house.db, (tx) => happens(tx, house, intakeId, { what: 'pulled' }));

/** It is there again; nothing goes on by itself. */
export const putBack = (house: House, intakeId: number): Promise<unknown> =>
  inTransaction(house.db, (tx) => happens(tx, house, intakeId, { what: 'put in', unfinished: false }));

/** Asks again until there is an answer. @throws when there is none in time: much longer than a slow disk takes. */
export async function until<T>(ask: () => Promise<T | null | undefined | false>, seconds = 60): Promise<T> {
  for (const end = Date.now() + seconds * 1000; ;) {
    const answer = await ask();
    if (answer) return answer;
    if (Date.now() > end) throw new Error(`not within ${seconds} s: ${ask.toString()}`);
    await sleep(25);
  }
}
