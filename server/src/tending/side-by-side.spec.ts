import { afterEach, describe, expect, it } from '@jest/globals';
import { existsSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { MendAsk } from '@tally/contract';
import { compose } from '../composition.js';
import { systemFiles } from '../drive/files.js';
import { listFolders } from '../drive/walk-thread.js';
import { copiesOf } from '../filing/index.js';
import { fillPlace } from '../keeping/index.js';
import { writeManifests } from '../proving/index.js';
import { changeCredit } from '../slip/index.js';
import { makeCard, realPictures } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../testing/house.js';
import { sharedReader } from '../testing/thorough.js';
import { tool } from '../testing/tools.js';
import { carryOutAll } from './carrying.js';
import { askCheck, lookAt, placeHere, runCheck } from './checking.js';
import { Looking } from './looking.js';
import { beginMend, mendNow, planMend } from './mending.js';
import { filedIn } from './store/known.js';
import { mendById } from './store/mends.js';

/*
 * Two things at once at one place: mends, checks, fills and credit each hold the place while they are at its files.
 */

let test: TestHouse;
afterEach(() => test.end());
let cards = 0;

/** A card of pictures, filed. @returns their folder. */
async function filed(count: number, sizes: (n: number) => number = (n) => 900 + n): Promise<string> {
  const files = Object.fromEntries(Array.from({ length: count }, (_, n) => [`DCIM/100TEST/P_${n + 1}.JPG`, sizes(n)]));
  const id = await bring(test, await makeCard(join(test.folder, `card-${++cards}`), files, cards));
  await fileNow(test.house, id);
  return dirname((await copiesOf(test.house.db, id))[0]!.to);
}

async function begun(ask: MendAsk): Promise<number> {
  const answer = await beginMend(test.house, ask, (await planMend(test.house, ask)).seal, 'test');
  if (answer.outcome !== 'begun') throw new Error(`not begun: ${JSON.stringify(answer.plan.faults)}`);
  return answer.id;
}

/** Waits for something that may wait for us, and not for it. */
const aMoment = (something: Promise<unknown>) => Promise.race([something, new Promise((done) => setTimeout(done, 500))]);

const rows = <T>(sql: string, given: unknown[] = []) => test.house.db.query<T[]>(sql, given);
const contents = (root: string) =>
  new Map(
    tool('find', root, '-type', 'f', '-name', '*.jpg')
      .trim()
      .split('\n')
      .map((path) => [path.slice(root.length + 1), readFileSync(path)] as const),
  );
const stateOfCopies = () =>
  rows<{ place: string; state: string; n: number }>(
    'select place_id as place, state, count(*)::int as n from copy group by 1, 2 order by 1, 2',
  );
async function checked(placeId: string): Promise<{ kind: string; path: string }[]> {
  await runCheck(
    test.house,
    await askCheck(test.house, placeId, { how: 'every byte', names: false, strict: false }, 'test'),
    never,
  );
  // All places of a test stand on one device.
  return rows(`select kind, path from drive_finding where place_id = $1 and kind <> 'only here' order by 1, 2`, [placeId]);
}

/** Runs something in the moment before a file with this in its path is opened, once. */
function onOpen(...parts: readonly string[]) {
  const when: { run: (() => Promise<unknown>) | null } = { run: null };
  const files = {
    ...systemFiles,
    open: async (...given: Parameters<typeof systemFiles.open>) => {
      const { run } = when;
      if (run && parts.every((part) => given[0].toString().includes(part))) {
        when.run = null;
        await run();
      }
      return systemFiles.open(...given);
    },
  };
  return { when, files };
}

describe('two who carry out the same moves', () => {
  it('make each of them once: every name has the bytes that it is to have, in this process and in another', async () => {
    test = await openHouse();
    const other = await compose(test.settings, { clock: () => test.clock.now, thorough: sharedReader() });
    try {
      for (let round = 0; round < 3; round++) {
        const folder = await filed(40, () => 5000);
        const all = (await filedIn(test.house.db, folder, 1000)).slice(-40);
        const before = contents(test.shared);
        const names = all.map((row, i) => ({
          ...row,
          ...{ to: `${folder}/${all[(i + 1) % all.length]!.name}`, toList: row.listFolder, toN: row.n },
        }));
        const id = await mendNow(test.house, { kind: 'mend', words: 'a circle', names }, 'test');
        const place = await placeHere(test.house, 'shared');
        await Promise.all([
          carryOutAll(test.house, never),
          lookAt(test.house, place, never, { how: 'size and time' }),
          carryOutAll(other.house, never),
        ]);
        await carryOutAll(test.house, never);
        expect((await mendById(test.house.db, id))!.state).toBe('done');
        const after = contents(test.shared);
        for (const { folder: was, name, to } of names) expect(after.get(to)!.equals(before.get(`${was}/${name}`)!)).toBe(true);
      }
      expect(await checked('shared')).toEqual([]);
    } finally {
      await other.close();
    }
  });

  it('a file of the same size that somebody put there by hand is not taken for the one that is meant', async () => {
    test = await openHouse();
    const folder = await filed(2, () => 5000);
    const [first, second] = await filedIn(test.house.db, folder, 10);
    const strange = Buffer.alloc(5000, 7);
    const name = (row: typeof first) => ({ ...row!, toList: row!.listFolder, toN: row!.n });
    const id = await mendNow(
      test.house,
      {
        ...{ kind: 'mend', words: 'two names' },
        names: [first, second].map((row, i) => ({ ...name(row), to: `${folder}/other_${i}.jpg` })),
      },
      'test',
    );
    writeFileSync(join(test.shared, folder, first!.name), strange);
    await carryOutAll(test.house, never);
    expect(readFileSync(join(test.shared, folder, first!.name)).equals(strange)).toBe(true);
    expect(existsSync(join(test.shared, folder, 'other_1.jpg'))).toBe(true);
    const failed = await rows<{ problem: string }>(`select problem from mend_move where mend_id = $1 and state = 'failed'`, [id]);
    expect(failed).toEqual([{ problem: `Shared drive: ${folder}/${first!.name} was changed by somebody else: it stays` }]);
  });
});

describe('a look while a mend is carried out', () => {
  it('says of nothing that it is missing', async () => {
    test = await openHouse();
    const folder = await filed(3);
    const place = await placeHere(test.house, 'shared');
    let did = false;
    const list = async (root: string, paths: readonly string[]) => {
      const listed = listFolders(root, paths);
      if (!did && paths.includes(folder)) {
        did = true;
        await begun({ kind: 'rename folder', folder, to: `${dirname(folder)}/zz renamed` });
        await carryOutAll(test.house, never);
      }
      return listed;
    };
    await new Looking(test.house, place, { list }, { how: 'size and time', signal: never, follows: true }).whole();
    expect(did).toBe(true);
    expect((await stateOfCopies()).map(({ state }) => state)).toEqual(['tallied', 'tallied']);
    expect(await rows(`select text from event where kind = 'missing'`)).toEqual([]);
    expect(await checked('shared')).toEqual([]);
  });
});

describe('a look while a place is filled', () => {
  it('says of no copy that somebody else changed it', async () => {
    const { when, files } = onOpen('/away/', '.part');
    test = await openHouse({}, [{ id: 'away', kind: 'off-site copy', device: 'a box elsewhere' }], files);
    const folder = await filed(1);
    const name = (await filedIn(test.house.db, folder, 1))[0]!.name;
    let look: Promise<unknown> = Promise.resolve();
    when.run = async () => {
      // A run that died had put credit into it and not said so yet: the size is the card's, the bytes are not.
      const path = join(test.folder, 'away', folder, name);
      writeFileSync(path, Buffer.alloc(900, 3));
      const [{ at }] = (await rows<{ at: Date }>('select modified_at as at from item')) as [{ at: Date }];
      utimesSync(path, at, at);
      look = lookAt(test.house, await placeHere(test.house, 'away'), never, { how: 'size and time' });
      await aMoment(look);
      rmSync(path);
    };
    await fillPlace(test.house, 'away', never, false);
    await look;
    expect(when.run).toBeNull();
    expect(await rows(`select state from copy where place_id = 'away' and problem like 'somebody else changed it%'`)).toEqual([]);
    expect(await rows(`select path from drive_finding where kind = 'changed'`)).toEqual([]);
  });
});

describe('a mend while a place is filled', () => {
  it('gives the copy that is just being made its new name, too', async () => {
    const { when, files } = onOpen('/away/', '.part');
    test = await openHouse({}, [{ id: 'away', kind: 'off-site copy', device: 'a box elsewhere' }], files);
    const folder = await filed(2);
    const to = `${dirname(folder)}/zz renamed`;
    let carrying: Promise<unknown> = Promise.resolve();
    when.run = async () => {
      await begun({ kind: 'rename folder', folder, to });
      carrying = carryOutAll(test.house, never);
      await aMoment(carrying);
    };
    await fillPlace(test.house, 'away', never, false);
    await carrying;
    await carryOutAll(test.house, never);
    await fillPlace(test.house, 'away', never, false);
    expect(when.run).toBeNull();
    expect((await stateOfCopies()).map(({ place, state, n }) => [place, state, n])).toEqual([
      ['away', 'tallied', 2],
      ['second', 'tallied', 2],
      ['shared', 'tallied', 2],
    ]);
    for (const root of [test.shared, test.second, join(test.folder, 'away')])
      expect([...contents(root).keys()].map((path) => dirname(path))).toEqual([to, to]);
    expect(await checked('away')).toEqual([]);
  });
});

describe('a mend while credit is written', () => {
  it('leaves nothing due for a folder that is gone, and nothing of ours in it', async () => {
    const { when, files } = onOpen('/shared/', '.tally-credit-');
    test = await openHouse({}, [], files);
    const folder = await filed(12);
    await writeManifests(test.house);
    const ids = (await rows<{ id: number }>('select item_id as id from filed_item order by id')).map(({ id }) => id);
    await changeCredit(test.house, { itemIds: ids, creditLine: 'Somebody' }, 'test');
    let carrying: Promise<unknown> = Promise.resolve();
    when.run = async () => {
      await begun({ kind: 'rename folder', folder, to: `${dirname(folder)}/zz renamed` });
      carrying = carryOutAll(test.house, never);
      await aMoment(carrying);
    };
    await writeManifests(test.house);
    await carrying;
    expect(when.run).toBeNull();
    await writeManifests(test.house);
    await writeManifests(test.house);
    expect(await rows('select folder, place_id, problem from beside_due')).toEqual([]);
    expect(existsSync(join(test.shared, folder))).toBe(false);
    expect(await rows(`select text from event where kind in ('differs', 'manifest')`)).toEqual([]);
    expect((await stateOfCopies()).map(({ state }) => state)).toEqual(['tallied', 'tallied']);
  });

  it('a folder that was left whole is not due any more: whatever was said of its items before', async () => {
    test = await openHouse();
    const folder = await filed(3);
    await begun({ kind: 'rename folder', folder, to: `${dirname(folder)}/zz renamed` });
    await carryOutAll(test.house, never);
    await writeManifests(test.house);
    await writeManifests(test.house);
    expect(await rows('select folder, place_id, problem from beside_due')).toEqual([]);
    expect(await rows(`select text from event where kind = 'manifest'`)).toEqual([]);
  });
});

describe('a file that a run which died had written anew', () => {
  it('before it could say so is not said to be changed by somebody else: the next round of credit says what stands there', async () => {
    test = await openHouse();
    const card = join(test.folder, 'REAL');
    const [name] = await realPictures(card, 1);
    const id = await bring(test, card);
    await fileNow(test.house, id);
    await writeManifests(test.house);
    const path = join(test.shared, (await copiesOf(test.house.db, id))[0]!.to);
    const withCredit = readFileSync(path);
    // It had taken the credit out, and died.
    const onCard = tool('find', card, '-name', name!).trim();
    expect(readFileSync(onCard).equals(withCredit)).toBe(false);
    writeFileSync(path, readFileSync(onCard));
    expect(await checked('shared')).toEqual([]);
    expect((await stateOfCopies()).map(({ state }) => state)).toEqual(['tallied', 'tallied']);
    await writeManifests(test.house);
    expect(readFileSync(path).equals(withCredit)).toBe(true);
    expect(await checked('shared')).toEqual([]);
    expect(await rows(`select text from event where kind = 'differs'`)).toEqual([]);
  });
});

describe('what we left half made', () => {
  it('is found once nobody was at it for an hour, and can be put aside; what is under way is not', async () => {
    test = await openHouse();
    const folder = await filed(1);
    const [fresh, old] = ['.tally-77-1.part', '.tally-77-2.part'].map((name) => join(test.shared, folder, name));
    writeFileSync(fresh!, 'is being copied');
    writeFileSync(old!, 'was being copied');
    expect(await checked('shared')).toEqual([]);
    // As an hour ago: a file tells when it was last touched, whatever it is a copy of, and nobody can say otherwise.
    const { now } = Date;
    Date.now = () => now() + 3_700_000;
    try {
      writeFileSync(fresh!, 'is being copied still');
      expect((await checked('shared')).map(({ path }) => path)).toEqual([
        `${folder}/.tally-77-1.part`,
        `${folder}/.tally-77-2.part`,
      ]);
    } finally {
      Date.now = now;
    }
    const ids = (await rows<{ id: number }>(`select id from drive_finding where kind = 'leftover'`)).map(({ id }) => id);
    await begun({ kind: 'findings', ids });
    await carryOutAll(test.house, never);
    expect([existsSync(fresh!), existsSync(old!)]).toEqual([false, false]);
    expect(await checked('shared')).toEqual([]);
  });
});

describe('a folder into which another card is being filed', () => {
  it('is not renamed meanwhile, and everybody is told why', async () => {
    const { when, files } = onOpen('/shared/', '.part');
    test = await openHouse({}, [], files);
    const folder = await filed(2);
    let refused: unknown = null;
    when.run = async () => {
      refused = await begun({ kind: 'rename folder', folder, to: `${dirname(folder)}/zz renamed` }).catch(
        (error: unknown) => error,
      );
    };
    expect(await filed(3)).toBe(folder);
    expect(String(refused)).toMatch(/being filed just now: wait until their copies tally/);
    expect((await stateOfCopies()).map(({ state, n }) => [state, n])).toEqual([
      ['tallied', 5],
      ['tallied', 5],
    ]);
    expect(tool('find', test.folder, '-name', '*.part').trim()).toBe('');
  });
});
