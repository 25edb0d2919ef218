import { afterEach, describe, expect, it } from '@jest/globals';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { MendAsk } from '@tally/contract';
import type { Fault } from '../../../standins/src/flaky-files.js';
import { flakyFiles } from '../../../standins/src/flaky-files.js';
import { systemFiles } from '../drive/files.js';
import { copiesOf } from '../filing/index.js';
import { fillPlace } from '../keeping/index.js';
import { makeContributor } from '../people/index.js';
import { writeManifests } from '../proving/index.js';
import { changeCredit } from '../slip/index.js';
import { makeCard, put, realPictures } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../testing/house.js';
import { carryOutAll } from './carrying.js';
import { askCheck, runCheck } from './checking.js';
import { beginMend, planMend, planTakingBack, takeBack, tryMendAgain } from './mending.js';
import { mendById, movesOf } from './store/mends.js';
import { emptyTray, goOnEmptying } from './tray.js';

/* Mends where a place is away, a file fails, a folder is a link, or somebody said something else since. */

let test: TestHouse;
afterEach(() => test.end());
let cards = 0;

async function filed(count: number): Promise<{ folder: string; items: number[]; intake: number }> {
  const files = Object.fromEntries(Array.from({ length: count }, (_, n) => [`DCIM/100TEST/P_${n + 1}.JPG`, 900 + n]));
  const intake = await bring(test, await makeCard(join(test.folder, `card-${++cards}`), files, cards));
  await fileNow(test.house, intake);
  const items = await rows<{ id: number }>('select item_id as id from filed_item where intake_id = $1 order by id', [intake]);
  return { intake, folder: dirname((await copiesOf(test.house.db, intake))[0]!.to), items: items.map(({ id }) => id) };
}

async function begun(ask: MendAsk): Promise<number> {
  const answer = await beginMend(test.house, ask, (await planMend(test.house, ask)).seal, 'test');
  if (answer.outcome !== 'begun') throw new Error(`not begun: ${JSON.stringify(answer.plan.faults)}`);
  return answer.id;
}

const rows = <T>(sql: string, given: unknown[] = []) => test.house.db.query<T[]>(sql, given);
const stateOf = async (id: number) => (await mendById(test.house.db, id))!.state;
const problemsOf = async (id: number) => (await movesOf(test.house.db, id)).flatMap(({ problem }) => problem ?? []);
const picturesIn = (folder: string) => (existsSync(folder) ? readdirSync(folder).filter((name) => name.endsWith('.jpg')) : []);

describe('a place that is away', () => {
  const box = { id: 'away', kind: 'off-site copy', device: 'a box elsewhere' } as const;
  const away = () => join(test.folder, 'away');

  it('keeps nothing from being mended again, or taken back: it does both when it is back', async () => {
    test = await openHouse({}, [box]);
    const { folder } = await filed(3);
    await fillPlace(test.house, 'away', never, false);
    renameSync(away(), `${away()}.gone`);
    const up = dirname(folder);
    const first = await begun({ kind: 'rename folder', folder, to: `${up}/once` });
    await carryOutAll(test.house, never);
    const second = await begun({ kind: 'rename folder', folder: `${up}/once`, to: `${up}/twice` });
    await carryOutAll(test.house, never);
    expect((await planTakingBack(test.house, second)).faults).toEqual([]);
    const back = await takeBack(test.house, second, 'test');
    await carryOutAll(test.house, never);
    expect(picturesIn(join(test.shared, up, 'once'))).toHaveLength(3);
    expect(await Promise.all([first, second, back].map(stateOf))).toEqual(['doing', 'doing', 'doing']);

    renameSync(`${away()}.gone`, away());
    expect(picturesIn(join(away(), folder))).toHaveLength(3);
    await carryOutAll(test.house, never);
    expect(await Promise.all([first, second, back].map(stateOf))).toEqual(['done', 'done', 'done']);
    for (const root of [test.shared, test.second, away()]) expect(picturesIn(join(root, up, 'once'))).toHaveLength(3);
    await writeManifests(test.house);
    expect(existsSync(join(away(), folder))).toBe(false);
    const check = await askCheck(test.house, 'away', { how: 'every byte', names: false, strict: false }, 'test');
    await runCheck(test.house, check, never);
    expect(await rows(`select kind, path from drive_finding where place_id = 'away' and kind <> 'only here'`)).toEqual([]);
  });

  it('that goes in the middle of a mend does it when it is back: what is not there just then is not gone', async () => {
    let leaves = false;
    test = await openHouse({}, [box], {
      rename: async (from, to) => {
        if (leaves && from.includes('/away/')) {
          leaves = false;
          renameSync(away(), `${away()}.gone`);
        }
        await systemFiles.rename(from, to);
      },
    });
    const { folder } = await filed(2);
    await fillPlace(test.house, 'away', never, false);
    const to = `${dirname(folder)}/zz renamed`;
    const id = await begun({ kind: 'rename folder', folder, to });
    leaves = true;
    await carryOutAll(test.house, never);
    expect([leaves, await stateOf(id)]).toEqual([false, 'doing']);
    renameSync(`${away()}.gone`, away());
    await carryOutAll(test.house, never);
    expect([await stateOf(id), picturesIn(join(away(), to)).length]).toEqual(['done', 2]);
  });

  it('that goes while credit is written was changed by nobody, and is written to when it is back', async () => {
    let leaves = false;
    test = await openHouse({}, [box], {
      open: (...given) => {
        if (leaves && given[0].toString().includes('/away/')) {
          leaves = false;
          renameSync(away(), `${away()}.gone`);
        }
        return systemFiles.open(...given);
      },
    });
    // More than are written at once: some are looked at after it went.
    const [card, count] = [join(test.folder, 'REAL'), 12];
    const [name] = await realPictures(card, 1);
    const picture = readFileSync(join(card, 'DCIM/100REAL', name!));
    for (let n = 0; n < count; n++)
      await put(join(card, `DCIM/100REAL/P_${n}.JPG`), Buffer.concat([picture, Buffer.from(`variant ${n}`)]));
    rmSync(join(card, 'DCIM/100REAL', name!));
    await fileNow(test.house, await bring(test, card));
    const items = (await rows<{ id: number }>('select id from item')).map(({ id }) => id);
    await fillPlace(test.house, 'away', never, false);
    await writeManifests(test.house);
    await changeCredit(test.house, { itemIds: items, creditLine: 'Somebody' }, 'test');
    leaves = true;
    await writeManifests(test.house);
    expect(leaves).toBe(false);
    renameSync(`${away()}.gone`, away());
    expect(await rows(`select state from copy where state <> 'tallied'`)).toEqual([]);
    expect(await rows(`select text from event where kind = 'differs'`)).toEqual([]);
    expect(await rows(`select distinct place_id as place from beside_due`)).toEqual([{ place: 'away' }]);
    await rows('update beside_due set due_at = now()');
    await writeManifests(test.house);
    expect(await rows('select 1 from beside_due')).toEqual([]);
    expect(await rows(`select count(*)::int as n from credit_stands where place_id = 'away'`)).toEqual([{ n: count }]);
  });

  it('whose credit a run that died had written and not said: a mend meets what is ours, and goes on', async () => {
    test = await openHouse({}, [box]);
    const card = join(test.folder, 'real');
    await realPictures(card, 2, 'jhead/normal-digicams');
    const intake = await bring(test, card);
    await fileNow(test.house, intake);
    await fillPlace(test.house, 'away', never, false);
    await writeManifests(test.house);
    renameSync(away(), `${away()}.gone`);
    const filed = await rows<{ id: number; folder: string; name: string }>(
      'select item_id as id, folder, name from filed_item order by id',
    );
    const items = filed.map(({ id }) => id);
    await changeCredit(test.house, { itemIds: items, creditLine: 'Somebody else' }, 'test');
    await writeManifests(test.house);
    renameSync(`${away()}.gone`, away());
    // What the run at that place had come to.
    for (const { folder, name } of filed)
      writeFileSync(join(away(), folder, name), readFileSync(join(test.shared, folder, name)));
    const mend = await begun({ kind: 'put aside', itemIds: items, why: 'test' });
    await carryOutAll(test.house, never);
    expect([await stateOf(mend), await problemsOf(mend)]).toEqual(['done', []]);
    await writeManifests(test.house);
    for (const place of ['shared', 'away']) {
      await runCheck(
        test.house,
        await askCheck(test.house, place, { how: 'every byte', names: false, strict: false }, 'test'),
        never,
      );
      expect(await rows(`select kind, path from drive_finding where place_id = $1 and kind <> 'only here'`, [place])).toEqual([]);
    }
    expect(await rows(`select place_id, version from credit_stands where place_id = 'away' and version <> 2`)).toEqual([]);
  });

  it('takes only what a mend is about out of a folder into which something was filed since', async () => {
    test = await openHouse({}, [box]);
    const { folder } = await filed(2);
    await fillPlace(test.house, 'away', never, false);
    renameSync(away(), `${away()}.gone`);
    const to = `${dirname(folder)}/zz renamed`;
    const id = await begun({ kind: 'rename folder', folder, to });
    await carryOutAll(test.house, never);
    // The rule gives the next card of that day the folder that is gone here.
    const later = await filed(1);
    expect(later.folder).toBe(folder);
    renameSync(`${away()}.gone`, away());
    // Its copies come there before the folder is renamed there.
    const [name] = picturesIn(join(test.shared, folder));
    writeFileSync(join(away(), folder, name!), readFileSync(join(test.shared, folder, name!)));
    await carryOutAll(test.house, never);
    await fillPlace(test.house, 'away', never, false);
    expect(await stateOf(id)).toBe('done');
    expect(picturesIn(join(away(), folder))).toEqual([name]);
    expect(picturesIn(join(away(), to))).toHaveLength(2);
  });
});

describe('a file that fails', () => {
  it('is told, and keeps nothing else of its place from being mended', async () => {
    const faults: Fault[] = [];
    test = await openHouse({}, [], {
      link: (from, to) => flakyFiles(faults).link(from, to),
      rename: (from, to) => flakyFiles(faults).rename(from, to),
    });
    const { folder, items } = await filed(3);
    const sick = (await rows<{ name: string }>('select name from filed_item order by id limit 1'))[0]!.name;
    faults.push({ path: `shared/${folder}/${sick}`, moveFails: 'EIO' });
    const id = await begun({ kind: 'put aside', itemIds: items, why: 'test' });
    await carryOutAll(test.house, never);
    expect(await stateOf(id)).toBe('needs attention');
    expect(await problemsOf(id)).toEqual([`Shared drive: ${folder}/${sick} cannot be moved (EIO)`]);
    expect(picturesIn(join(test.shared, folder))).toEqual([sick]);
    expect(picturesIn(join(test.second, folder))).toEqual([]);
    faults.length = 0;
    await tryMendAgain(test.house, id);
    await carryOutAll(test.house, never);
    expect([await stateOf(id), picturesIn(join(test.shared, folder))]).toEqual(['done', []]);
  });

  it('is found by a check of every byte, and made anew', async () => {
    const faults: Fault[] = [];
    test = await openHouse({}, [], { open: (...given) => flakyFiles(faults).open(...given) });
    const { folder } = await filed(2);
    const [{ name }] = (await rows<{ name: string }>('select name from filed_item order by id limit 1')) as [{ name: string }];
    faults.push({ path: `shared/${folder}/${name}`, unreadableAt: 100 });
    const check = async () =>
      runCheck(
        test.house,
        await askCheck(test.house, 'shared', { how: 'every byte', names: false, strict: false }, 'test'),
        never,
      );
    const found = () =>
      rows<{ id: number; path: string; what: string }>(`select id, path, what from drive_finding where kind = 'unreadable'`);
    await check();
    expect(await found()).toEqual([
      {
        ...{ id: expect.any(Number), path: `${folder}/${name}` },
        what: 'its device reports a fault where it lies; Second copy has it as it was',
      },
    ]);
    expect(await rows(`select state, problem from copy where place_id = 'shared' and state <> 'tallied'`)).toEqual([
      { state: 'unreadable', problem: 'it cannot be read on Shared drive' },
    ]);
    await begun({ kind: 'findings', ids: (await found()).map(({ id }) => id) });
    await carryOutAll(test.house, never);
    faults.length = 0;
    await fillPlace(test.house, 'shared', never, false);
    await check();
    expect(await found()).toEqual([]);
    expect(await rows(`select 1 from copy where state <> 'tallied'`)).toEqual([]);
  });
});

describe('a folder that is a link', () => {
  it('is not gone through: nothing leaves the place', async () => {
    test = await openHouse();
    const { folder } = await filed(2);
    mkdirSync(join(test.folder, 'outside'));
    symlinkSync(join(test.folder, 'outside'), join(test.shared, 'lnk'));
    const ask = { kind: 'rename folder', folder, to: 'lnk/gone' } as const;
    const plan = await planMend(test.house, ask);
    expect(plan.faults).toEqual([{ path: 'lnk', why: 'it is a link on Shared drive, and leads elsewhere' }]);
    await expect(beginMend(test.house, ask, plan.seal, 'test')).rejects.toThrow(/leads elsewhere/);
    // Put there after the plan was begun.
    const id = await begun({ ...ask, to: 'new/gone' });
    symlinkSync(join(test.folder, 'outside'), join(test.shared, 'new'));
    await carryOutAll(test.house, never);
    expect(readdirSync(join(test.folder, 'outside'))).toEqual([]);
    expect(picturesIn(join(test.shared, folder))).toHaveLength(2);
    expect(await problemsOf(id)).toEqual([`Shared drive: a folder of ${folder} or new is a link, and leads elsewhere`]);
  });
});

describe('what was said since', () => {
  it('stays when a mend is taken back, and the plan tells it', async () => {
    test = await openHouse();
    const { items } = await filed(2);
    const make = (code: string) => makeContributor(test.house, { name: `Person ${code}`, code }, 'test');
    const [first, second] = [await make('AA'), await make('BB')];
    const id = await begun({ kind: 're-file', itemIds: items, contributorId: first });
    await carryOutAll(test.house, never);
    await changeCredit(test.house, { itemIds: [items[0]!], contributorId: second }, 'test');
    const plan = await planTakingBack(test.house, id);
    expect(plan.also).toEqual(['The contributor of 1 file was said anew since: it stays.']);
    await takeBack(test.house, id, 'test');
    const now = await rows<{ contributor: number }>('select contributor_id as contributor from item order by id');
    expect(now.map(({ contributor }) => contributor)).toEqual([second, null]);
  });
});

describe('the tray', () => {
  const later = () => (test.clock.now = new Date(test.clock.now.getTime() + 400 * 86_400_000));
  const one = async () =>
    (await rows<{ folder: string; name: string }>('select folder, name from filed_item order by id limit 1'))[0]!;
  const everyPicture = () =>
    [test.shared, test.second].map(
      (root) => readdirSync(root, { recursive: true }).filter((name) => String(name).endsWith('.jpg')).length,
    );

  it('keeps what was re-filed out of it and could not be moved yet: both copies stand when it is emptied', async () => {
    test = await openHouse();
    const { items } = await filed(2);
    await begun({ kind: 'put aside', itemIds: [items[0]!], why: 'by mistake' });
    await carryOutAll(test.house, never);
    const again = await begun({ kind: 're-file', itemIds: [items[0]!] });
    const { folder, name } = await one();
    for (const root of [test.shared, test.second]) writeFileSync(join(root, folder, name), 'a stranger');
    await carryOutAll(test.house, never);
    expect(await stateOf(again)).toBe('needs attention');
    later();
    const emptied = await emptyTray(test.house, 'test');
    expect(emptied).toMatchObject({ files: 0 });
    expect(emptied.stays).toHaveLength(2);
    for (const words of emptied.stays) expect(words).toMatch(/another mend is to move it$/);
    // The card's two, and the stranger.
    expect(everyPicture()).toEqual([3, 3]);
    for (const root of [test.shared, test.second]) renameSync(join(root, folder, name), join(root, 'strange'));
    await tryMendAgain(test.house, again);
    await carryOutAll(test.house, never);
    expect(await stateOf(again)).toBe('done');
    expect(await emptyTray(test.house, 'test')).toMatchObject({ files: 0, stays: [] });
    expect(everyPicture()).toEqual([2, 2]);
  });

  it('keeps what is to be moved out of it and was not yet', async () => {
    test = await openHouse();
    const { items } = await filed(1);
    await begun({ kind: 'put aside', itemIds: items, why: 'by mistake' });
    await carryOutAll(test.house, never);
    const again = await begun({ kind: 're-file', itemIds: items });
    later();
    expect(await emptyTray(test.house, 'test')).toMatchObject({ files: 0 });
    await carryOutAll(test.house, never);
    expect([await stateOf(again), ...everyPicture()]).toEqual(['done', 1, 1]);
  });

  it('says of a place that goes away while it is emptied what was removed from it', async () => {
    const box = { id: 'away', kind: 'off-site copy', device: 'a box elsewhere' } as const;
    test = await openHouse({}, [box]);
    const { items } = await filed(12);
    await fillPlace(test.house, 'away', never, false);
    await begun({ kind: 'put aside', itemIds: items, why: 'test' });
    await carryOutAll(test.house, never);
    later();
    const away = join(test.folder, 'away');
    const tray = join(away, (await one()).folder);
    const over = new AbortController();
    const goes = (async () => {
      while (!over.signal.aborted && picturesIn(tray).length > 9) await new Promise(setImmediate);
      renameSync(away, `${away}.gone`);
    })();
    const { stays } = await emptyTray(test.house, 'test');
    over.abort();
    await goes;
    expect(stays.join()).toMatch(/^What was put aside by mend \d+ waits for /);
    renameSync(`${away}.gone`, away);
    const left = picturesIn(tray);
    expect(left.length).toBeGreaterThan(0);
    const said = await rows<{ name: string }>(
      `select f.name from copy c join filed_item f on f.id = c.filed_item_id where c.place_id = 'away' and c.state = 'tallied'`,
    );
    expect(said.map(({ name }) => name).sort()).toEqual(left.sort());
    expect(await emptyTray(test.house, 'test')).toMatchObject({ files: left.length, stays: [] });
    expect(await rows('select 1 from filed_item')).toEqual([]);
  });

  it('keeps a file that is not what was put aside', async () => {
    test = await openHouse();
    const { items } = await filed(1);
    await begun({ kind: 'put aside', itemIds: items, why: 'test' });
    await carryOutAll(test.house, never);
    const { folder, name } = await one();
    const path = join(test.shared, folder, name);
    const other = Buffer.from(readFileSync(path));
    other[450]! ^= 1;
    writeFileSync(path, other);
    later();
    expect((await emptyTray(test.house, 'test')).stays).toEqual([
      `Shared drive: ${folder}/${name}: it is not what was put aside`,
    ]);
    expect(readFileSync(path).equals(other)).toBe(true);
    expect(await rows(`select place_id as place from copy order by 1`)).toEqual([{ place: 'shared' }]);
    // It may still be filed again.
    await begun({ kind: 're-file', itemIds: items });
  });

  it('takes a copy that was spoilt before, when it is what was put there', async () => {
    test = await openHouse();
    const { folder, items } = await filed(1);
    const { name } = await one();
    writeFileSync(join(test.second, folder, name), 'spoilt');
    const ask = { how: 'every byte', names: false, strict: false } as const;
    await runCheck(test.house, await askCheck(test.house, 'second', ask, 'test'), never);
    await begun({ kind: 'put aside', itemIds: items, why: 'test' });
    await carryOutAll(test.house, never);
    later();
    expect(await emptyTray(test.house, 'test')).toMatchObject({ files: 2, stays: [] });
    expect(everyPicture()).toEqual([0, 0]);
    expect(await rows('select 1 from filed_item')).toEqual([]);
  });

  it('what somebody began to remove is ended by a sweep, and mended by nobody meanwhile', async () => {
    test = await openHouse();
    const { items } = await filed(2);
    const id = await begun({ kind: 'put aside', itemIds: [items[0]!], why: 'test' });
    await carryOutAll(test.house, never);
    later();
    // Killed between its first removal and saying so.
    await rows('update mend set emptying_at = now() where id = $1', [id]);
    const { folder, name } = await one();
    renameSync(join(test.shared, folder, name), join(test.folder, 'gone'));
    await expect(begun({ kind: 're-file', itemIds: [items[0]!] })).rejects.toThrow(/removed from the tray for good/);
    await expect(takeBack(test.house, id, 'test')).rejects.toThrow(/being removed for good just now/);
    renameSync(join(test.second, folder, name), join(test.folder, 'gone, too'));
    await goOnEmptying(test.house, never);
    expect(await rows(`select text from event where kind = 'tray emptied'`)).toEqual([
      { text: 'What was put aside was removed for good by a run that died: 1 item.' },
    ]);
    expect(everyPicture()).toEqual([1, 1]);
    expect(await rows('select item_id as id from filed_item')).toEqual([{ id: items[1] }]);
    expect((await mendById(test.house.db, id))!.emptiedAt).not.toBeNull();
  });
});
