import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import {
  chmodSync,
  existsSync,
  linkSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import type { IntakeSummary, LogPage, MendPlan, MendsView, PlanView } from '@tally/contract';
import { chance, whole } from '../../standins/src/chance.js';
import { copiesOf } from '../../server/src/filing/index.js';
import { fillPlace } from '../../server/src/keeping/index.js';
import { makeAssignment } from '../../server/src/people/index.js';
import { writeManifests } from '../../server/src/proving/index.js';
import { askCheck, beginMend, carryOutAll, findingsOf, planMend, runCheck, takeBack } from '../../server/src/tending/index.js';
import { makeCard } from '../../server/src/testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../../server/src/testing/house.js';
import { tool } from '../../server/src/testing/tools.js';
import { RunningServer, until } from '../support/running-server.js';
import { seed } from '../support/seed.js';

/*
 * Mends on devices that fail: killed at any moment, a place that is gone, read-only, a stranger at the target, two stations
 * at once. Nothing may be lost, nothing may be there twice, every name must be whole. TALLY_MEND_KILLS makes the run longer
 * than the one that every test run can afford.
 */
const MOMENTS = Number(process.env['TALLY_MEND_KILLS'] ?? 24);
const REAL_KILLS = Number(process.env['TALLY_KILLS'] ?? 2);
const FILES = 8;

let test: TestHouse;
let intake: number;
let contents: Map<number, Buffer>;
let items: number[];
let assignments: number[];
const roll = chance(seed);

beforeAll(async () => {
  test = await openHouse();
  const card = await makeCard(
    join(test.folder, 'CARD'),
    Object.fromEntries(Array.from({ length: FILES }, (_, n) => [`DCIM/100TEST/P_${n + 1}.JPG`, 700 + n * 3])),
    5,
  );
  intake = await bring(test, card);
  await fileNow(test.house, intake);
  // Another card's picture stays in the folder: what goes, goes file by file.
  await fileNow(test.house, await bring(test, await makeCard(join(test.folder, 'STAYS'), { 'DCIM/100TEST/P_9.JPG': 5000 }, 6)));
  await writeManifests(test.house);
  items = (await test.house.db.query<{ id: number }[]>('select id from item where intake_id = $1 order by id', [intake])).map(
    ({ id }) => id,
  );
  contents = new Map((await where()).map(({ id, path }) => [id, readFileSync(join(test.shared, path))]));
  const made = { code: '', from: '2026-04-18', to: '2026-04-18', place: '', expectedCards: 0, expectedContributorIds: [] };
  assignments = [
    test.slip.assignmentId,
    await makeAssignment(test.house, { ...made, title: 'Heron count', slug: 'heron-count' }, 'test'),
  ];
});
afterAll(() => test.end());

const where = () =>
  test.house.db.query<{ id: number; path: string }[]>(
    `select id, concat_ws('/', nullif(folder, ''), name) as path from filed_item where intake_id = $1 order by id`,
    [intake],
  );
const roots = () => [test.shared, test.second];

/** Every file stands once in each place, under the name that the logbook has, with its bytes, and nothing else does. */
async function expectWhole() {
  const rows = await where();
  for (const root of roots()) {
    for (const { id, path } of rows) expect(readFileSync(join(root, path)).equals(contents.get(id)!)).toBe(true);
    const pictures = tool('find', root, '-type', 'f', '-name', '*.jpg').trim().split('\n');
    expect(pictures).toHaveLength(rows.length + 1);
    expect(tool('find', root, '-name', '.tally-*.part')).toBe('');
  }
}

let turn = 0;
/** Begins to re-file everything under the other assignment; nothing is moved yet. */
async function begin() {
  turn++;
  const ask = { kind: 're-file' as const, itemIds: items, assignmentId: assignments[turn % 2]! };
  const { seal } = await planMend(test.house, ask);
  const answer = await beginMend(test.house, ask, seal, 'test');
  if (answer.outcome !== 'begun') throw new Error('the plan changed');
  return answer.id;
}

const waiting = (place: string) =>
  test.house.db.query<{ id: number; from: string; to: string }[]>(
    `select id, from_path as "from", to_path as "to" from mend_move where state = 'waiting' and place_id = $1 order by mend_id, position`,
    [place],
  );

/** What a run leaves that dies at a moment: some names given and written down, some given and not, one between two names. */
function leaveAsKilled(root: string, moves: readonly { from: string; to: string }[]): void {
  const upTo = whole(roll, 0, moves.length);
  for (const [index, { from, to }] of moves.entries()) {
    if (index >= upTo) break;
    mkdirSync(join(root, dirname(to)), { recursive: true });
    const isLast = index === upTo - 1;
    if (isLast && roll() < 0.5) linkSync(join(root, from), join(root, to));
    else renameSync(join(root, from), join(root, to));
  }
}

describe('a mend', () => {
  it(`that is killed at ${MOMENTS} moments goes on from there, and every name is whole`, async () => {
    for (let n = 0; n < MOMENTS; n++) {
      await begin();
      for (const [place, root] of [
        ['shared', test.shared],
        ['second', test.second],
      ] as const)
        leaveAsKilled(root, await waiting(place));
      await carryOutAll(test.house, never);
      await writeManifests(test.house);
      await expectWhole();
    }
    const id = await askCheck(test.house, 'shared', { how: 'every byte', names: true, strict: true }, 'test');
    await runCheck(test.house, id, never);
    // Both places of this house lie on one disk.
    const { findings } = await findingsOf(test.house, 'shared', { after: 0, limit: 100 });
    expect(findings.filter(({ kind }) => kind !== 'only here')).toEqual([]);
  }, 300_000);

  it('stops at a stranger under a new name, which stays; put away, it goes on', async () => {
    const ask = { kind: 're-file' as const, itemIds: items, assignmentId: assignments[(turn + 1) % 2]! };
    const id = await begin();
    const [move] = await waiting('second');
    mkdirSync(join(test.second, dirname(move!.to)), { recursive: true });
    writeFileSync(join(test.second, move!.to), 'a stranger');
    await carryOutAll(test.house, never);
    expect(readFileSync(join(test.second, move!.to), 'utf8')).toBe('a stranger');
    expect(existsSync(join(test.second, move!.from))).toBe(true);
    const [mend] = await test.house.db.query<{ state: string }[]>('select state from mend where id = $1', [id]);
    expect(mend!.state).toBe('needs attention');
    rmSync(join(test.second, move!.to));
    await test.house.db.query(`update mend_move set state = 'waiting' where mend_id = $1 and state = 'failed'`, [id]);
    await test.house.db.query(`update mend set state = 'doing' where id = $1`, [id]);
    await carryOutAll(test.house, never);
    await writeManifests(test.house);
    await expectWhole();
    expect((await planMend(test.house, ask)).steps).toEqual([]);
  });

  it('a stranger that stands there before is said, and nothing is begun', async () => {
    const ask = { kind: 'rename folder' as const, folder: dirname((await where())[0]!.path), to: 'sorted' };
    mkdirSync(join(test.shared, 'SORTED'));
    const plan = await planMend(test.house, ask);
    expect(plan.faults).toEqual([{ path: ask.folder, why: 'sorted stands there already' }]);
    await expect(beginMend(test.house, ask, plan.seal, 'test')).rejects.toThrow(/Nothing was begun/);
    rmSync(join(test.shared, 'SORTED'), { recursive: true });
  });

  it('waits for a place that is away, and follows there when it is back; until then nothing there is missing', async () => {
    renameSync(test.second, `${test.second}.gone`);
    const id = await begin();
    await carryOutAll(test.house, never);
    expect(await waiting('second')).toHaveLength(FILES);
    renameSync(`${test.second}.gone`, test.second);
    const check = await askCheck(test.house, 'second', { how: 'size and time', names: false, strict: false }, 'test');
    await runCheck(test.house, check, never);
    await carryOutAll(test.house, never);
    await writeManifests(test.house);
    await expectWhole();
    const states = await copiesOf(test.house.db, intake);
    expect(new Set(states.flatMap(({ copies }) => copies.map(({ state }) => state)))).toEqual(new Set(['tallied']));
    await takeBack(test.house, id, 'test');
    await carryOutAll(test.house, never);
    await writeManifests(test.house);
    turn++;
    await expectWhole();
  });

  it('on a place that may not be written says so, and loses nothing', async () => {
    // The superuser may write anywhere: then there is nothing to try.
    if (process.getuid?.() === 0) return;
    const folder = dirname((await where())[0]!.path);
    chmodSync(join(test.second, folder), 0o500);
    await begin();
    await carryOutAll(test.house, never);
    chmodSync(join(test.second, folder), 0o700);
    expect(readdirSync(join(test.second, folder)).filter((name) => name.endsWith('.jpg'))).toHaveLength(FILES);
  });

  it('a file that somebody changed stays where it is, and the rest follows', async () => {
    await begin();
    const moves = await waiting('second');
    const [move] = moves;
    const before = readFileSync(join(test.second, move!.from));
    writeFileSync(join(test.second, move!.from), 'edited');
    await carryOutAll(test.house, never);
    expect(readFileSync(join(test.second, move!.from), 'utf8')).toBe('edited');
    for (const { to } of moves.slice(1)) expect(existsSync(join(test.second, to))).toBe(true);
    writeFileSync(join(test.second, move!.from), before);
    await test.house.db.query(`update mend_move set state = 'waiting' where state = 'failed'`);
    await carryOutAll(test.house, never);
    await writeManifests(test.house);
    await expectWhole();
  });

  it('of two at once on the same files one is done, the other is refused or sees what it would do now', async () => {
    const asks = [0, 1].map((n) => ({ kind: 'rename folder' as const, to: `both ${n}` }));
    const folder = dirname((await where())[0]!.path);
    const plans = await Promise.all(asks.map((ask) => planMend(test.house, { ...ask, folder })));
    const answers = await Promise.allSettled(
      asks.map((ask, n) => beginMend(test.house, { ...ask, folder }, plans[n]!.seal, `station ${n}`)),
    );
    const begun = answers.filter((one) => one.status === 'fulfilled' && one.value.outcome === 'begun');
    expect(begun).toHaveLength(1);
    await Promise.all([carryOutAll(test.house, never), carryOutAll(test.house, never)]);
    await carryOutAll(test.house, never);
    await writeManifests(test.house);
    await expectWhole();
  });

  it('what was copied to another place leaves the first only once it is proven there', async () => {
    const folder = dirname((await where())[0]!.path);
    const ask = { kind: 'to another place' as const, folder, from: 'second', to: 'shared' };
    const { seal } = await planMend(test.house, ask);
    // One copy on the place it goes to is spoilt: it is not what anything else may leave for.
    const [first] = await where();
    await test.house.db.query(`update copy set state = 'differs' where filed_item_id = $1 and place_id = 'shared'`, [first!.id]);
    await beginMend(test.house, ask, seal, 'test');
    await carryOutAll(test.house, never);
    const left = readdirSync(join(test.second, folder)).filter((name) => name.endsWith('.jpg'));
    expect(left).toContain(first!.path.slice(folder.length + 1));
    expect(left.length).toBeLessThanOrEqual(2);
    await test.house.db.query(`update copy set state = 'tallied' where filed_item_id = $1 and place_id = 'shared'`, [first!.id]);
    await carryOutAll(test.house, never);
    expect(existsSync(join(test.second, first!.path))).toBe(false);
    for (const { id, path } of await where()) expect(readFileSync(join(test.shared, path)).equals(contents.get(id)!)).toBe(true);
    await fillPlace(test.house, 'second', never, false);
  });
});

describe('a server that is killed while it mends', () => {
  let server: RunningServer;
  beforeAll(async () => {
    server = await RunningServer.prepare();
    await server.start();
  });
  afterAll(() => server.stop());

  it(`${REAL_KILLS} times, mends to the end`, async () => {
    const slip = {
      contributorId: (await server.send<{ id: number }>('POST', '/api/contributors', { name: 'Ines Barrow', code: 'IB' })).id,
      assignmentId: (
        await server.send<{ id: number }>('POST', '/api/assignments', {
          title: 'Reed planting',
          slug: 'reed-planting',
          from: '2026-04-18',
          to: '2026-04-18',
          expectedContributorIds: [],
        })
      ).id,
    };
    await makeCard(
      server.path('making', 'KILLED'),
      Object.fromEntries(Array.from({ length: 120 }, (_, n) => [`DCIM/100TEST/P_${n + 1000}.JPG`, 900 + n])),
      9,
    );
    tool('mv', server.path('making', 'KILLED'), server.path('reader', 'KILLED'));
    const find = async () => (await server.get<LogPage>('/api/intakes?limit=10')).intakes[0];
    await until(async () => (await find())?.readThrough === true);
    const { id } = (await find())!;
    await server.send('PATCH', `/api/intakes/${id}/slip`, slip);
    await server.send('POST', `/api/intakes/${id}/file`, { seal: (await server.get<PlanView>(`/api/intakes/${id}/plan`)).seal });
    await until(async () => (await server.get<IntakeSummary>(`/api/intakes/${id}`)).state === 'tallied');
    for (let n = 0; n < REAL_KILLS; n++) {
      const folder = n === 0 ? '2026/2026-04/2026-04-18_reed-planting' : `2026/sorted ${n - 1}`;
      const names = readdirSync(server.path('shared', folder)).filter((name) => name.endsWith('.jpg'));
      expect(names).toHaveLength(120);
      const ask = { kind: 'rename folder', folder, to: `2026/sorted ${n}` };
      const plan = await server.send<MendPlan>('POST', '/api/mends/plan', ask);
      await server.send('POST', '/api/mends', { ask, seal: plan.seal });
      await sleep(whole(roll, 0, 3_500));
      await server.kill();
      await server.start();
      await until(async () => (await server.get<MendsView>('/api/mends')).mends.every(({ state }) => state === 'done'));
      for (const place of ['shared', 'second'])
        expect(readdirSync(server.path(place, `2026/sorted ${n}`)).filter((name) => name.endsWith('.jpg'))).toHaveLength(120);
    }
  }, 180_000);
});
