import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { existsSync, statSync } from 'node:fs';
import { access, mkdir, mkdtemp, open, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { homedir } from 'node:os';
import { join } from 'node:path';
import { clearanceNow } from '../clearing/index.js';
import { compose } from '../composition.js';
import { copiesOf, planOf } from '../filing/index.js';
import { eventsOf, theIntake } from '../house/index.js';
import { Settings } from '../settings.js';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, openHouse, type TestHouse, until } from '../testing/house.js';
import { tool } from '../testing/tools.js';
import { placeViews } from './places.js';

let test: TestHouse;
beforeAll(async () => (test = await openHouse({}, [{ id: 'third', kind: 'second copy' }])));
afterAll(() => test.end());

/** The same house opened with other settings, by the same station or another. */
async function opened<T>(change: Partial<Settings>, run: (house: TestHouse['house']) => Promise<T>): Promise<T> {
  const other = await compose(Settings.parse({ ...test.settings, ...change }), { clock: () => test.clock.now });
  try {
    return await run(other.house);
  } finally {
    await other.close();
  }
}
const standing = async (house: TestHouse['house'], id: string) => (await placeViews(house)).find((place) => place.id === id)!;

describe('places of several stations', () => {
  it('one that is taken out of the settings is asked for nothing any more; back again, it is', async () => {
    const without = test.settings.places.filter(({ id }) => id !== 'third');
    await opened({ places: without }, async (house) => {
      expect(await standing(house, 'third')).toMatchObject({
        required: false,
        online: false,
        problem: "is in nobody's settings any more",
      });
      const card = await makeCard(join(test.folder, 'WITHOUT'), { '1.JPG': 100 }, 3);
      const id = await bring({ ...test, house }, card);
      await fileNow(house, id);
      expect((await theIntake(house, id)).state).toBe('tallied');
      expect((await copiesOf(house.db, id))[0]!.copies.map(({ place }) => place)).toEqual(['shared', 'second']);
    });
    await opened({}, async (house) => expect(await standing(house, 'third')).toMatchObject({ required: true, online: true }));
  });

  it('one that another station still names stays required, and says that it is not mounted here', async () => {
    await opened({ station: 'Boathouse' }, () => Promise.resolve());
    const without = test.settings.places.filter(({ id }) => id !== 'third');
    await opened({ places: without }, async (house) => {
      expect(await standing(house, 'third')).toMatchObject({
        required: true,
        online: false,
        problem: 'is not mounted at this station: Boathouse fills it',
      });
      const id = await bring({ ...test, house }, await makeCard(join(test.folder, 'HALF'), { '1.JPG': 110 }, 4));
      const { view } = await planOf(house, id);
      expect(view.obstacles).toEqual(['third: is not mounted at this station: Boathouse fills it']);
    });
    await opened({}, () => Promise.resolve());
  });

  it('two machines mount one place at paths of their own: neither overwrites the other’s', async () => {
    const elsewhere = join(test.folder, 'mounted-elsewhere');
    await mkdir(elsewhere);
    const places = test.settings.places.map((place) => (place.id === 'shared' ? { ...place, root: elsewhere } : place));
    await opened({ station: 'Boathouse', places }, async (house) => {
      expect((await standing(house, 'shared')).root).toBe(elsewhere);
      expect((await standing(test.house, 'shared')).root).toBe(test.shared);
    });
  });
});

describe('a copy that is not at its place any more', () => {
  it('is missing: said once, seen on the stick, and not cleared for', async () => {
    const id = await bring(test, await makeCard(join(test.folder, 'LOST'), { '1.JPG': 120, '2.JPG': 130 }, 5));
    await fileNow(test.house, id);
    const [first] = await copiesOf(test.house.db, id);
    await rm(join(test.second, first!.to));
    for (let look = 0; look < 2; look++) {
      const { safe, reasons } = await clearanceNow(test.house, id, false);
      expect([safe, reasons.map(({ kind }) => kind)]).toEqual([false, expect.arrayContaining(['copies'])]);
    }
    const states = (await copiesOf(test.house.db, id))[0]!.copies.map(({ place, state }) => [place, state]);
    expect(states).toEqual(
      expect.arrayContaining([
        ['shared', 'tallied'],
        ['second', 'missing'],
      ]),
    );
    expect((await eventsOf(test.house.db, id)).filter(({ kind }) => kind === 'missing')).toHaveLength(1);
  });
});

describe('a place that was never used', () => {
  const system = ['/var/tmp', process.env['TALLY_TEST_DISK'] ?? '/tmp', homedir()].find(
    (folder) => existsSync(folder) && statSync(folder).dev === statSync('/').dev,
  );
  (system === undefined ? it.skip : it)('and stands on the disk of the system is no drive, unless somebody says so', async () => {
    const root = await mkdtemp(join(system!, 'tally-mount-point-'));
    const { systemDisk: _, ...unsaid } = test.settings;
    try {
      const places = [
        ...test.settings.places,
        { ...test.settings.places[0]!, id: 'mount', name: 'Mount', kind: 'archive' as const, root },
      ];
      const other = await compose(Settings.parse({ ...unsaid, places }), { clock: () => test.clock.now });
      try {
        const { online, problem } = await standing(other.house, 'mount');
        expect([online, problem]).toEqual([
          false,
          `${root} is on the disk of the system: is its drive mounted? If that is meant, say "systemDisk": "knowingly" in the settings`,
        ]);
        expect(await readdir(root)).toEqual([]);
        // Places that were used before stay places, wherever they stand.
        expect((await standing(other.house, 'shared')).online).toBe(true);
      } finally {
        await other.close();
      }
      await opened({ places }, async (house) =>
        expect(await standing(house, 'mount')).toMatchObject({ online: true, problem: null }),
      );
      expect(await readdir(root)).toEqual(['.tally-place.json']);
      // What carries its mark was used, also by a version that kept no note of that.
      await test.house.db.query(`update place set marked = false where id = 'mount'`);
      const again = await compose(Settings.parse({ ...unsaid, places }), { clock: () => test.clock.now });
      try {
        expect((await standing(again.house, 'mount')).online).toBe(true);
      } finally {
        await again.close();
      }
    } finally {
      await rm(root, { recursive: true });
      await opened({}, () => Promise.resolve());
    }
  });
});

describe('a place that does not answer', () => {
  it('is away, and nobody waits for it: neither the desk nor what else the house does', async () => {
    const mark = join(test.folder, 'third', '.tally-place.json');
    const kept = await readFile(mark);
    await rm(mark);
    // Whoever opens it waits for somebody who writes: as on a mount whose server was stopped.
    tool('mkfifo', mark);
    try {
      const began = performance.now();
      expect(await standing(test.house, 'third')).toMatchObject({
        ...{ online: false, problem: expect.stringMatching(/does not answer/) as unknown as string },
      });
      const first = performance.now() - began;
      // The first one waits, within limits; nobody after it does.
      for (let times = 0; times < 8; times++) await standing(test.house, 'third');
      expect(performance.now() - began - first).toBeLessThan(first);
      expect(await standing(test.house, 'shared')).toMatchObject({ online: true });
      const id = await bring(test, await makeCard(join(test.folder, 'MEANWHILE'), { '1.JPG': 140 }, 6));
      const { view } = await planOf(test.house, id);
      expect(view.obstacles).toEqual([expect.stringMatching(/^third: .* does not answer/)]);
    } finally {
      const waiting = await open(mark, 'r+');
      await waiting.close();
      await rm(mark);
      await writeFile(mark, kept);
    }
    await until(async () => (await standing(test.house, 'third')).online);
  });

  it('a place that stands nowhere yet is not made: its path may be mistyped', async () => {
    const root = join(test.folder, 'mistyped');
    const places = [...test.settings.places, { ...test.settings.places[1]!, id: 'fourth', name: 'fourth', root }];
    await opened({ places }, async (house) => {
      expect(await standing(house, 'fourth')).toMatchObject({
        online: false,
        problem: `${root} is not there: make that folder, or correct the path in the settings`,
      });
      await expect(access(root)).rejects.toThrow(/ENOENT/);
      await mkdir(root);
      expect(await standing(house, 'fourth')).toMatchObject({ online: true });
      // It was marked once: an empty folder in its stead is not the place.
      await rename(root, `${root}.gone`);
      await mkdir(root);
      expect(await standing(house, 'fourth')).toMatchObject({
        ...{
          online: false,
          problem: expect.stringMatching(/is the drive mounted\? If this is that drive, say so/) as unknown as string,
        },
      });
    });
  });
});
