import { chance } from '../../standins/src/chance.js';
import { seed } from '../support/seed.js';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { IntakeSummary, LogPage, PlanView } from '@tally/contract';
import { readdirSync } from 'node:fs';
import pg from 'pg';
import { setTimeout as sleep } from 'node:timers/promises';
import { makeCard } from '../../server/src/testing/cards.js';
import { tool } from '../../server/src/testing/tools.js';
import { RunningServer, until } from '../support/running-server.js';

/*
 * What no exception handler sees: the process is killed, the database goes away. TALLY_KILLS and TALLY_KILL_MB make the
 * run longer than the one that every test run can afford.
 */
const KILLS = Number(process.env['TALLY_KILLS'] ?? 2);
const MEGABYTES = Number(process.env['TALLY_KILL_MB'] ?? 100);
const FILES = 60;

let server: RunningServer;
let slip: { contributorId: number; assignmentId: number };
beforeAll(async () => {
  server = await RunningServer.prepare();
  await server.start();
  const contributor = await server.send<{ id: number }>('POST', '/api/contributors', { name: 'Ines Barrow', code: 'IB' });
  const assignment = {
    title: 'Reed planting',
    slug: 'reed-planting',
    from: '2026-04-18',
    to: '2026-04-18',
    expectedContributorIds: [contributor.id],
  };
  slip = {
    contributorId: contributor.id,
    assignmentId: (await server.send<{ id: number }>('POST', '/api/assignments', assignment)).id,
  };
});
afterAll(() => server.stop());

/** Puts a card in, waits until it is read, says what it is, and begins to file it. @returns the intake's id. */
async function begin(volume: string, seed: number): Promise<number> {
  const bytes = Math.round((MEGABYTES * 1e6) / FILES);
  await makeCard(
    server.path('making', volume),
    Object.fromEntries(Array.from({ length: FILES }, (_, i) => [`DCIM/100HALDN/HM4_${i + 1000}.JPG`, bytes + i])),
    seed,
  );
  tool('mv', server.path('making', volume), server.path('reader', volume));
  const find = async () =>
    (await server.get<LogPage>('/api/intakes?limit=10')).intakes.find((intake) => intake.card.volume === volume);
  await until(async () => {
    const intake = await find();
    return intake !== undefined && intake.read === intake.items && intake.items === FILES;
  });
  const { id } = (await find())!;
  await server.send('PATCH', `/api/intakes/${id}/slip`, slip);
  const { seal } = await server.get<PlanView>(`/api/intakes/${id}/plan`);
  await server.send('POST', `/api/intakes/${id}/file`, { seal });
  return id;
}

const stateOf = async (id: number) => (await server.get<IntakeSummary>(`/api/intakes/${id}`)).state;
const filesIn = (place: string) =>
  tool('find', server.path(place), '-type', 'f', '-name', '2*.jpg', '-printf', '%P\\n').trim().split('\n').filter(Boolean).sort();
const hashes = (root: string, pattern: string) =>
  tool('sh', '-c', `cd "$0" && find . -type f -name '${pattern}' -print0 | xargs -0 -r sha256sum | cut -c1-64 | sort`, root)
    .trim()
    .split('\n')
    .filter(Boolean);

/** Is a temporary file being written in the shared drive's folder? */
const isWriting = () => {
  const names = readdirSync(server.path('shared'), { recursive: true, encoding: 'utf8' });
  return names.some((name) => name.endsWith('.part')) || names.filter((name) => name.endsWith('.jpg')).length === FILES;
};

/** The end state of an undisturbed run: every file once in both places, nothing temporary, names without gaps. */
async function expectWhole(volume: string, first: number): Promise<void> {
  const card = hashes(server.path('reader', volume), '*.JPG');
  expect(card).toHaveLength(FILES);
  for (const place of ['shared', 'second']) {
    const held = new Set(hashes(server.path(place), '2*.jpg'));
    expect(card.filter((hash) => !held.has(hash))).toEqual([]);
    // What is written beside the files follows, under temporary names of its own.
    await until(() => Promise.resolve(tool('find', server.path(place), '-name', '.tally-*.part') === ''), 60);
    const numbers = filesIn(place).map((path) => Number(/_(\d+)\.jpg$/.exec(path)![1]));
    expect(numbers).toEqual(numbers.map((_, i) => i + 1));
    expect(numbers).toHaveLength(first + FILES);
  }
}

describe('interruptions cost time, never files', () => {
  const roll = chance(seed);

  it(`kill -9 in the middle of filing, ${KILLS} times at random moments: the same end state, no half file under a final name`, async () => {
    const id = await begin('KILLED', 1);
    let card: Set<string> | null = null;
    let inTheMiddle = 0;
    for (let kill = 0; kill < KILLS; kill++) {
      await until(() => Promise.resolve(isWriting()));
      await sleep(roll() * MEGABYTES * 0.3);
      await server.kill();
      card ??= new Set(hashes(server.path('reader/KILLED'), '*.JPG'));
      // Whatever bears a final name now is whole, in whichever place.
      const named = ['shared', 'second'].flatMap((place) => hashes(server.path(place), '2*.jpg'));
      expect(named.filter((hash) => !card!.has(hash))).toEqual([]);
      if (named.length < FILES * 2) inTheMiddle++;
      await server.start();
    }
    await until(async () => (await stateOf(id)) === 'tallied', 120);
    await expectWhole('KILLED', 0);
    expect(inTheMiddle).toBeGreaterThan(0);
  }, 1_200_000);

  it('the database goes away for a while in the middle: filing goes on by itself', async () => {
    const id = await begin('ORPHANED', 2);
    const name = new URL(server.database.adminUrl).pathname.slice(1);
    const elsewhere = new URL(server.database.adminUrl);
    elsewhere.pathname = '/postgres';
    const owner = new pg.Client({ connectionString: elsewhere.href });
    await owner.connect();
    await owner.query(`alter database ${name} allow_connections false`);
    await owner.query(
      `select pg_terminate_backend(pid) from pg_stat_activity where datname = $1 and backend_type = 'client backend'`,
      [name],
    );
    await sleep(1500);
    await owner.query(`alter database ${name} allow_connections true`);
    await owner.end();
    await until(async () => (await stateOf(id)) === 'tallied', 120);
    await expectWhole('ORPHANED', FILES);
  }, 300_000);

  it('a card pulled in the middle and put back: the same end state', async () => {
    const id = await begin('PULLED', 3);
    await sleep(MEGABYTES);
    tool('mv', server.path('reader/PULLED'), server.path('pulled'));
    await until(async () => (await server.get<IntakeSummary>(`/api/intakes/${id}`)).state !== 'filing', 60);
    tool('mv', server.path('pulled'), server.path('reader/PULLED'));
    await until(async () => (await stateOf(id)) === 'tallied', 120);
    await expectWhole('PULLED', FILES * 2);
  }, 300_000);
});
