import { afterAll, beforeAll, expect, it } from '@jest/globals';
import { type ChildProcess, spawn } from 'node:child_process';
import { mkdir, readdir, rename, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import pg from 'pg';
import { makeCard } from '../../server/src/testing/cards.js';
import { openHouse, type TestHouse, until } from '../../server/src/testing/house.js';
import { compareAll } from '../../server/src/testing/tools.js';
import { clearAt } from '../../server/src/clearing/index.js';
import { beginFiling, copiesOf, planOf } from '../../server/src/filing/index.js';
import { eventsOf, intakesWhere, theIntake } from '../../server/src/house/index.js';
import { changeSlip } from '../../server/src/slip/index.js';
import { Network, NetworkDatabase, whyNoNetwork } from '../support/network.js';
import { wherePossible } from '../support/where-possible.js';
import { queuesAtRest } from '../support/queues-at-rest.js';
import { ROOT } from '../support/running-server.js';

/*
 * Three stations on one network, each a process on a machine of its own, and a desk that has no reader. Twelve cards at
 * once; one station is cut off in the middle and back, one is killed, one has no mount of the second place.
 */

const why = whyNoNetwork();
const suite = wherePossible(why);

const STATIONS = [1, 2, 3] as const;
const CARDS_EACH = 4;
const FILES = 12;

let network: Network;
let database: NetworkDatabase;
let desk: TestHouse;
const running = new Map<number, ChildProcess>();

const stationName = (station: number) => `Station ${station}`;
const reader = (station: number) => join(desk.folder, `reader-${station}`);

async function start(station: number): Promise<void> {
  const settings = join(desk.folder, `station-${station}.json`);
  await mkdir(reader(station), { recursive: true });
  const { databaseUrl, databaseAdminUrl, zone, house, places } = desk.settings;
  const mounted = places
    // The third has no mount of the second place: the others fill it.
    .filter(({ id }) => station !== 3 || id === 'shared')
    .map(({ id, name, kind, root, device }) => ({ id, name, kind, root, device }));
  const content = {
    ...{ databaseUrl, databaseAdminUrl, zone, house, places: mounted, role: 'worker', log: 'error', backup: 'by hand' },
    // The cards hold noise: there is nothing to see.
    previews: { build: 'when looked at' },
    ...{ station: stationName(station), readers: [`${reader(station)}/*`], dataDir: join(desk.folder, `data-${station}`) },
  };
  await writeFile(settings, JSON.stringify(content));
  const [command, ...before] = [...network.on(station), process.execPath, join(ROOT, 'server/dist/main.js')];
  const env = { ...process.env, NODE_OPTIONS: '', TALLY_SETTINGS: settings };
  running.set(station, spawn(command, before, { env, stdio: ['ignore', 'ignore', 'inherit'] }));
}

async function kill(station: number): Promise<void> {
  const child = running.get(station);
  running.delete(station);
  if (child?.exitCode !== null) return;
  const gone = new Promise((resolve) => child.once('exit', resolve));
  // `ip netns exec` becomes the command it runs: it is the station itself that is killed.
  child.kill('SIGKILL');
  await gone;
}

beforeAll(async () => {
  if (why !== null) return;
  network = new Network();
  for (const _ of STATIONS) network.addMachine();
  database = new NetworkDatabase(network.address);
  const owner = new pg.Client({ connectionString: database.url('owner') });
  await owner.connect();
  await owner.query('create role tally login');
  await owner.end();
  // Other specs run in this process, too: theirs is put back as soon as the desk is open.
  const others = { ...process.env };
  process.env['TALLY_TEST_ADMIN_URL'] = database.url('owner');
  process.env['TALLY_TEST_APP_URL'] = database.url('tally');
  const place = (id: string, kind: string) => ({ id, name: id, kind, device: id });
  desk = await openHouse({ station: 'Desk', readers: [] });
  for (const name of ['TALLY_TEST_ADMIN_URL', 'TALLY_TEST_APP_URL']) process.env[name] = others[name];
  // The same two places for everybody, on two devices as far as anybody says.
  await desk.house.db.query('update place set device = id');
  for (const one of desk.settings.places) Object.assign(one, place(one.id, one.kind));
});
afterAll(async () => {
  if (why !== null) return;
  for (const station of STATIONS) await kill(station);
  await desk.end();
  database.remove();
  network.remove();
  await queuesAtRest();
});

/** Twelve cards, all different, put into three readers at once. */
async function putIn(): Promise<void> {
  let seed = 0;
  for (const station of STATIONS) {
    for (let card = 1; card <= CARDS_EACH; card++) {
      const making = join(desk.folder, 'making', `CARD-${station}-${card}`);
      const files = Object.fromEntries(Array.from({ length: FILES }, (_, n) => [`DCIM/P${1000 + n}.JPG`, 400_000 + n]));
      await makeCard(making, files, ++seed);
      const time = new Date(Date.parse('2026-04-18T09:00:00Z') + seed * 60_000);
      for (const name of Object.keys(files)) await utimes(join(making, name), time, time);
      await rename(making, join(reader(station), `CARD-${station}-${card}`));
    }
  }
}

const states = async () => {
  const all = await intakesWhere(desk.house.db, 'true order by k.volume', []);
  return all.map(({ state }) => state);
};

suite('three stations', () => {
  it('file twelve cards to the names that were promised, though one is cut off and one is killed', async () => {
    for (const station of STATIONS) await start(station);
    await until(async () => {
      const [{ n }] = await desk.house.db.query<[{ n: number }]>(`select count(distinct station)::int as n from place_known`);
      return n === 4;
    });
    await putIn();
    const cards = await until(async () => {
      const all = await intakesWhere(desk.house.db, 'i.read_through order by k.volume', []);
      return all.length === STATIONS.length * CARDS_EACH && all;
    });

    // What an undisturbed run gives is what the plans say: names are promised before anything is copied.
    const promised = new Map<number, { from: string; to: string }[]>();
    for (const { id } of cards) {
      await changeSlip(desk.house, id, desk.slip, 'wren');
      const { view } = await planOf(desk.house, id);
      promised.set(
        id,
        view.placements.map(({ from, folder, name }) => ({ from, to: `${folder}/${name}` })),
      );
      expect((await beginFiling(desk.house, id, view.seal, 'wren')).outcome).toBe('begun');
    }
    await until(async () => (await tallied()) > 30);
    network.cut(2);
    await kill(3);
    const before = await tallied();
    await sleep(12_000);
    // The first went on by itself; nobody took over what needs another's reader.
    expect(await tallied()).toBeGreaterThanOrEqual(before);
    network.mend(2);
    await start(3);
    await until(async () => (await states()).every((state) => state === 'tallied'), 100);

    for (const { id, sourcePath } of cards) {
      const copies = await copiesOf(desk.house.db, id);
      expect(copies.map(({ from, to }) => ({ from, to })).sort(byFrom)).toEqual(promised.get(id)!.sort(byFrom));
      for (const root of [desk.shared, desk.second])
        compareAll(copies.map(({ from, to }) => [join(sourcePath, from), join(root, to)]));
      expect((await eventsOf(desk.house.db, id)).filter(({ kind }) => kind === 'tallied')).toHaveLength(1);
    }
    for (const root of [desk.shared, desk.second]) {
      const names = await readdir(root, { recursive: true });
      expect(names.filter((name) => name.endsWith('.jpg'))).toHaveLength(cards.length * FILES);
    }
    // What explains the files is written behind filing: what was begun when one was killed is finished and leaves nothing.
    const half = async (root: string) => (await readdir(root, { recursive: true })).filter((name) => name.endsWith('.part'));
    await until(async () => ![...(await half(desk.shared)), ...(await half(desk.second))].length);
  });

  it('clear their cards for somebody who sits at the desk', async () => {
    for (const station of STATIONS) {
      const [card] = await intakesWhere(desk.house.db, 'k.volume = $1', [`CARD-${station}-1`]);
      const cleared = clearAt(desk.house, card!.id, { files: FILES, letGo: false, keep: false, sure: false }, 'wren');
      const folder = join(reader(station), `CARD-${station}-1`, 'DCIM');
      if (station === 3) {
        // It cannot look at the copies in the second place, so nothing goes.
        await expect(cleared).rejects.toThrow('second is not here');
        expect(await readdir(folder)).toHaveLength(FILES);
        continue;
      }
      expect(await cleared).toMatchObject({ removed: FILES, stayed: [] });
      expect(await readdir(folder)).toEqual([]);
      expect((await theIntake(desk.house, card!.id)).clearedAt).not.toBeNull();
    }
  });
});

const tallied = async () => {
  const [{ n }] = await desk.house.db.query<[{ n: number }]>(`select count(*)::int as n from copy where state = 'tallied'`);
  return n;
};
const byFrom = (a: { from: string }, b: { from: string }) => a.from.localeCompare(b.from);
