import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { renameSync } from 'node:fs';
import { copyFile, mkdir, readFile, rm, symlink, truncate, writeFile } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { CreditChange, type IntakeRecord, type MendAsk } from '@tally/contract';
import { eraseWaiting } from '../audit/index.js';
import { copiesOf } from '../filing/index.js';
import { setLabel, theIntake } from '../house/index.js';
import { fillPlace } from '../keeping/index.js';
import { addToList, forgetContributor, makeAssignment, makeContributor } from '../people/index.js';
import { writeHouseRecord, writeManifests } from '../proving/index.js';
import { currentRule, saveRule } from '../rules/index.js';
import { itemsOf, judgeItems, markAlreadyFiled, refreshTotals, takeItems } from '../seeing/index.js';
import { changeCredit } from '../slip/index.js';
import { askAdopt, askCheck, beginMend, carryOutAll, planMend, runAdoption, runCheck, takeBack } from '../tending/index.js';
import { asRows } from '../testing/as-rows.js';
import { makeCard, noise, put } from '../testing/cards.js';
import { freshDatabase } from '../testing/database.js';
import { anotherLife, bring, fileNow, never, openHouse, type TestHouse, until } from '../testing/house.js';
import { allComeOut, filedCard, verdictOf } from '../testing/lives.js';
import { tool } from '../testing/tools.js';
import { beginRebuild, goOnRebuilding, lookAtDrives } from './rebuilding.js';

/* The database is lost, the drives are there: the logbook becomes again what it was. */

let test: TestHouse;
const originals = new Map<string, string>();

async function mended(ask: MendAsk): Promise<void> {
  const answer = await beginMend(test.house, ask, (await planMend(test.house, ask)).seal, 'wren');
  if (answer.outcome !== 'begun') throw new Error(`not begun: ${JSON.stringify(answer.plan.faults)}`);
  await carryOutAll(test.house, never);
}
const idsOf = async (intake: number) => (await itemsOf(test.house.db, intake)).map(({ id }) => id);
const settled = async (house: TestHouse['house']) => {
  for (let tries = 0; tries < 4; tries++) {
    for (const place of ['shared', 'second']) await fillPlace(house, place, never);
    await writeManifests(house);
  }
};

beforeAll(async () => {
  test = await openHouse();
  const { house } = test;
  // Pictures with their credit inside, of one contributor.
  const first = await filedCard(test);
  for (const [to, from] of first.originals) originals.set(to, from);
  const terms = await addToList(house, 'terms', { name: 'Free for us', stance: 'free for the house' }, 'wren');
  const reach = await addToList(house, 'locations', { name: 'Lower reach', town: 'Ostrel', country: 'PT' }, 'wren');
  const ids = await idsOf(first.id);
  await judgeItems(house, first.id, { itemIds: [ids[0]!], verdict: 'select', description: 'A heron, and the new creek' });
  await changeCredit(
    house,
    CreditChange.parse({
      itemIds: ids,
      termsId: terms,
      locationId: reach,
      addWords: ['reeds', 'mud flat'],
      addPictured: ['Tomas Reed'],
    }),
    'wren',
  );
  const [{ cardId }] = await house.db.query<[{ cardId: number }]>('select card_id as "cardId" from intake where id = $1', [
    first.id,
  ]);
  await setLabel(house.db, cardId, 'C-014');
  await refreshTotals(house.db, first.id);
  // Raw, a clip and sound: beside them; one is left, one is no material.
  const mixed = await makeCard(
    join(test.folder, 'MIXED'),
    {
      'DCIM/100ABCDE/A0001.CR2': 7000,
      'DCIM/100ABCDE/A0002.MP4': 9000,
      'DCIM/100ABCDE/A0003.WAV': 5000,
      'DCIM/100ABCDE/A0004.MP4': 4000,
      'MISC/STATUS.BIN': 20,
    },
    5,
  );
  const second = await bring(test, mixed);
  const left = (await itemsOf(house.db, second)).find(({ path }) => path.endsWith('A0004.MP4'))!;
  await takeItems(house, second, { itemIds: [left.id], taken: false });
  await fileNow(house, second);
  // The same card again, with one more: the rest is filed already.
  await put(join(mixed, 'DCIM/100ABCDE/A0005.MP4'), noise(3000, 77));
  await fileNow(house, await bring(test, mixed));
  // Another contributor, who is forgotten; another assignment, to which a folder goes.
  const contributorId = await makeContributor(house, { name: 'Oskar Lind', code: 'OL' }, 'wren');
  const fourth = await bring(test, await makeCard(join(test.folder, 'OL'), { 'DCIM/100ABCDE/B0001.JPG': 2000 }, 6), {
    ...test.slip,
    contributorId,
  });
  await fileNow(house, fourth);
  await forgetContributor(house, contributorId, 'wren');
  const assignmentId = await makeAssignment(
    house,
    {
      title: 'Autumn walk',
      slug: 'autumn-walk',
      code: '7',
      from: '2026-04-17',
      to: '2026-04-19',
      place: 'Reach',
      expectedCards: 2,
      expectedContributorIds: [],
    },
    'wren',
  );
  const fifth = await filedCard(test);
  await mended({ kind: 're-file', itemIds: await idsOf(fifth.id), assignmentId });
  for (const { from, to } of await copiesOf(house.db, fifth.id))
    originals.set(to, fifth.originals.get([...fifth.originals.keys()].find((one) => fifth.originals.get(one)!.endsWith(from))!)!);
  // One in the bin.
  const sixth = await filedCard(test);
  await mended({ kind: 'put aside', itemIds: [(await idsOf(sixth.id))[0]!], why: 'out of focus' });
  // A card kept whole.
  const { revision, rule } = await currentRule(house.db);
  await saveRule(
    house,
    {
      rule: {
        ...rule,
        settings: { asOnCard: { card: true, folderLine: '{assignment.slug}/{captured:yyyy-MM-dd}/{contributor.code}/{intake}' } },
      },
      note: 'kept whole',
      from: revision,
    },
    'wren',
  );
  await fileNow(
    house,
    await bring(
      test,
      await makeCard(
        join(test.folder, 'WHOLE'),
        { 'DCIM/100ABCDE/AL010007.MP4': 9000, 'DCIM/100ABCDE/AL010007.THM': 90, 'MISC/STATUS.BIN': 20 },
        11,
      ),
    ),
  );
  await saveRule(house, { rule, note: 'as before', from: (await currentRule(house.db)).revision }, 'wren');
  // An added folder.
  await put(join(test.shared, '2019/Old walk/one.jpg'), noise(3000, 91));
  await put(join(test.shared, '2019/Old walk/two.jpg'), noise(3000, 92));
  await runCheck(house, await askCheck(house, 'shared', { how: 'size and time', names: false, strict: false }, 'wren'), never);
  const folders = [{ folder: '2019/Old walk', contributorId: test.slip.contributorId, assignmentId, title: null, day: null }];
  await runAdoption(house, await askAdopt(house, 'shared', { folders }, 'wren'), never);
  for (let more = 0; more < 4; more++) {
    const card = await filedCard(test);
    for (const [to, from] of card.originals) originals.set(to, from);
  }
  await until(async () => {
    await eraseWaiting(house, never);
    return (await house.db.query<unknown[]>('select from erasing')).length === 0;
  });
  await settled(house);
  await writeHouseRecord(house, never);
}, 300_000);
afterAll(() => test.end());

/** Another life of the house on copies of its drives. */
async function onCopies<T>(run: (life: TestHouse) => Promise<T>): Promise<T> {
  const folder = join(test.folder, 'damaged');
  await rm(folder, { recursive: true, force: true });
  await mkdir(folder);
  const places = test.settings.places.map((place) => ({ ...place, root: join(folder, place.id) }));
  for (const { root } of test.settings.places) tool('cp', '-a', root, folder);
  const life = await anotherLife(test, await freshDatabase(), { places });
  try {
    return await run({ ...life, folder: test.folder, shared: join(folder, 'shared'), second: join(folder, 'second') });
  } finally {
    await life.end();
  }
}
const rebuild = async (life: TestHouse, places = ['shared', 'second']) => {
  await beginRebuild(life.house, places, 'wren', never);
  return (await goOnRebuilding(life.house, 'wren', never))!;
};

describe('a house of twelve intakes, rebuilt from its drives', () => {
  it('says row by row what it said, and every original comes out', async () => {
    const before = await asRows(test.house.db);
    expect(before['intake']).toHaveLength(12);
    await onCopies(async (life) => {
      await rebuild(life);
      const now = await asRows(life.house.db);
      for (const [table, rows] of Object.entries(before)) expect({ table, rows: now[table] }).toEqual({ table, rows });
      await allComeOut(life, originals);
      expect(await verdictOf(life)).toMatchObject({ problems: [] });
    });
  });
});

describe('afterwards', () => {
  it('the same card is filed already, item by item; new numbers go on; what follows is written, and comes out', async () => {
    await onCopies(async (life) => {
      await rebuild(life);
      tool('cp', '-a', join(test.folder, 'MIXED'), join(test.folder, 'MIXED again'));
      await put(join(test.folder, 'MIXED again/DCIM/100ABCDE/A0006.MP4'), noise(3000, 78));
      const same = await bring(life, join(test.folder, 'MIXED again'), {});
      await markAlreadyFiled(life.house.db, same);
      const items = await life.house.db.query<{ path: string; isFiled: boolean }[]>(
        'select path, already_filed_id is not null as "isFiled" from item where intake_id = $1',
        [same],
      );
      expect(items.map(({ path, isFiled }) => [path, isFiled])).toEqual(
        items.map(({ path }) => [path, !/A0006|STATUS/.test(path)]),
      );
      expect((await theIntake(life.house, same)).number).toBe('2026-0013');
      // Credit that is said anew is written into the files, and comes out of them again.
      const [heron] = await life.house.db.query<[{ id: number }]>(`select id from item where description like 'A heron%'`);
      await changeCredit(life.house, CreditChange.parse({ itemIds: [heron.id], addWords: ['heron'] }), 'wren');
      await settled(life.house);
      await allComeOut(life, originals);
      // Every byte is read by itself afterwards.
      const asked = await life.house.db.query<{ id: number; place: string; how: string }[]>(
        `select id, place_id as place, how from drive_check where state = 'going' order by place_id`,
      );
      expect(asked.map(({ place, how }) => [place, how])).toEqual([
        ['second', 'every byte'],
        ['shared', 'every byte'],
      ]);
      for (const { id } of asked) await runCheck(life.house, id, never);
      expect(await life.house.db.query(`select place_id, kind, path, what from drive_finding where kind <> 'only here'`)).toEqual(
        [],
      );
      expect(await life.house.db.query('select path from stray')).toEqual([]);
    });
  });

  it('what lies in the bin is restored from there', async () => {
    await onCopies(async (life) => {
      await rebuild(life);
      const [{ id }] = await life.house.db.query<[{ id: number }]>('select id from mend where kept_until is not null');
      await takeBack(life.house, id, 'wren');
      await carryOutAll(life.house, never);
      expect(await life.house.db.query(`select folder from filed_item where folder like '\\_put-aside%'`)).toEqual([]);
    });
  });
});

describe('drives that do not agree, and records that are damaged', () => {
  const recordsIn = (root: string) =>
    tool('find', root, '-name', 'intake-*.json', '-not', '-path', '*/.tally-second/*').trim().split('\n').sort();

  it('one that is spoilt on one place, and one that is gone with its second, are told by the others', async () => {
    const before = await asRows(test.house.db);
    await onCopies(async (life) => {
      const records = recordsIn(life.shared);
      await writeFile(records[0]!, (await readFile(records[0]!, 'utf8')).slice(0, 400));
      await rm(records[1]!);
      await rm(join(dirname(records[1]!), '.tally-second', basename(records[1]!)));
      const report = await rebuild(life);
      expect(report).toMatchObject({ intakes: 12, missing: 0, out: 0 });
      const now = await asRows(life.house.db);
      for (const table of ['item', 'filed', 'events', 'said'])
        expect({ table, rows: now[table] }).toEqual({ table, rows: before[table] });
      // Where no record tells that a copy stands, it is looked for by whoever fills the place, and not believed.
      const waiting = (now['copy'] as { state: string }[]).filter(({ state }) => state === 'waiting');
      expect(waiting.length).toBeGreaterThan(0);
      await settled(life.house);
      expect(await life.house.db.query(`select state, problem from copy where state <> 'tallied'`)).toEqual([]);
      expect((await asRows(life.house.db))['intake']).toEqual(before['intake']);
    });
  });

  it('of two places that differ the newer record counts, and the difference is told', async () => {
    await onCopies(async (life) => {
      const [path] = recordsIn(life.second).filter((one) => one.includes('intake-2026-0002'));
      for (const one of [path!, join(dirname(path!), '.tally-second', basename(path!))]) {
        const record = JSON.parse(await readFile(one, 'utf8')) as IntakeRecord;
        const items = record.items
          .filter(({ name }) => !name.endsWith('.wav'))
          .map((item) => ({ ...item, description: 'older' }));
        await writeFile(one, `${JSON.stringify({ ...record, writtenAt: '2026-04-20T10:00:00.000Z', items }, null, 2)}\n`);
      }
      const { differences } = await rebuild(life);
      expect(differences).toEqual([
        { intake: '2026-0002', place: 'Second copy', path: expect.stringMatching(/\.wav$/), what: 'is not recorded' },
      ]);
      expect(await life.house.db.query(`select 1 from item where description = 'older'`)).toEqual([]);
    });
  });

  it('without the house record a code becomes a contributor of that code, and nobody is guessed', async () => {
    await onCopies(async (life) => {
      for (const root of [life.shared, life.second])
        for (const folder of ['', '.tally-second']) await rm(join(root, folder, 'house-record.json'));
      expect(await lookAtDrives(life.house, ['shared'], never)).toMatchObject({ hasHouseRecord: false, intakes: 12 });
      expect(await rebuild(life)).toMatchObject({ intakes: 12 });
      expect(await life.house.db.query('select code, name from contributor order by code')).toEqual([
        { code: 'IB', name: 'Ines Barrow' },
        { code: 'OL', name: expect.stringMatching(/^Contributor /) },
      ]);
      expect(await life.house.db.query('select slug, title from assignment order by slug')).toEqual([
        { slug: 'autumn-walk', title: 'Autumn walk' },
        { slug: 'reed-planting', title: 'Reed planting day' },
      ]);
      await allComeOut(life, originals);
    });
  });

  it('what is no record is passed over: a loop, a link, another encoding, one that is huge, a second of the same, one of another house', async () => {
    await onCopies(async (life) => {
      const [folder] = recordsIn(life.shared).map((path) => dirname(path));
      const [whole] = recordsIn(life.second);
      await symlink(whole!, join(folder!, 'intake-2026-0901.json'));
      await symlink('intake-2026-0902.json', join(folder!, 'intake-2026-0902.json'));
      await writeFile(join(folder!, 'intake-2026-0903.json'), await readFile(whole!, 'utf8'), 'utf16le');
      await copyFile(whole!, join(folder!, 'intake-2026-0906.json'));
      await truncate(await put0(join(folder!, 'intake-2026-0904.json')), 300 << 20);
      const others = JSON.parse(await readFile(whole!, 'utf8')) as IntakeRecord;
      const theirs = {
        ...others,
        houseId: '01890000-0000-7000-8000-000000000000',
        intake: '2026-0905',
        intakeId: '01890000-0000-7000-8000-000000000001',
      };
      await writeFile(join(folder!, 'intake-2026-0905.json'), JSON.stringify(theirs));
      expect(await lookAtDrives(life.house, ['shared'], never)).toMatchObject({ intakes: 12, others: 1 });
      expect(await rebuild(life)).toMatchObject({ intakes: 12, out: 0 });
    });
  });

  it('a record that leads out of its place, or holds what no logbook does, is refused; the others come', async () => {
    await onCopies(async (life) => {
      const spoil = async (number: string, change: (text: string) => string) => {
        for (const root of [life.shared, life.second])
          for (const path of recordsIn(root).filter((one) => one.includes(number)))
            for (const one of [path, join(dirname(path), '.tally-second', basename(path))])
              await writeFile(one, change(await readFile(one, 'utf8')));
      };
      await writeFile(join(test.folder, 'outside.jpg'), 'not of this place');
      await spoil('2026-0009', (text) => text.replaceAll(/"name": "[^"]+\.jpg"/gi, '"name": "../../../../../outside.jpg"'));
      await spoil('2026-0010', (text) => text.replaceAll(/"from": "DCIM/g, '"from": "/DCIM'));
      await spoil('2026-0011', (text) => text.replaceAll(/"description": ""/g, '"description": "\\u0000"'));
      await spoil('2026-0012', (text) => text.replaceAll(/"shiftSeconds": 0/g, '"shiftSeconds": 99999999999'));
      const { intakes, refused } = await rebuild(life);
      expect({ intakes, refused: refused.map(({ intake }) => intake) }).toEqual({
        intakes: 8,
        refused: ['2026-0009', '2026-0010', '2026-0011', '2026-0012'],
      });
      expect(await life.house.db.query(`select 1 from filed_item where folder || '/' || name like '%..%'`)).toEqual([]);
    });
  });

  it('a file that is gone, and one that is shorter, are said, and come back from the other place', async () => {
    await onCopies(async (life) => {
      const [gone, shorter] = [...originals.keys()];
      await rm(join(life.shared, gone!));
      await truncate(join(life.shared, shorter!), 100);
      expect(await rebuild(life)).toMatchObject({ missing: 2 });
      expect(await life.house.db.query(`select place_id, state from copy where state <> 'tallied'`)).toEqual(
        [1, 2].map(() => ({ place_id: 'shared', state: 'missing' })),
      );
    });
  });
});

describe('is refused, in words', () => {
  it('in a house that holds anything, of a place that is not there, or where nothing stands; and twice', async () => {
    await expect(beginRebuild(test.house, ['shared'], 'wren', never)).rejects.toThrow('This house is not empty: it has intakes');
    const life = await anotherLife(test, await freshDatabase());
    try {
      await expect(beginRebuild(life.house, ['nowhere'], 'wren', never)).rejects.toThrow(
        'There is no place nowhere: shared, second.',
      );
      await beginRebuild(life.house, ['shared'], 'wren', never);
      await expect(beginRebuild(life.house, ['shared'], 'wren', never)).rejects.toThrow('is being rebuilt already');
    } finally {
      await life.end();
    }
    const empty = await openHouse();
    try {
      await expect(lookAtDrives(empty.house, ['shared'], never)).rejects.toThrow('No record of an intake stands there');
    } finally {
      await empty.end();
    }
  });

  it('two places that are one drive: a copy that is counted twice is none the second time', async () => {
    const places = test.settings.places.map((place) => ({ ...place, root: test.shared }));
    const life = await anotherLife(test, await freshDatabase(), { places });
    try {
      await expect(beginRebuild(life.house, ['shared', 'second'], 'wren', never)).rejects.toThrow('is the drive of Shared drive');
    } finally {
      await life.end();
    }
  });
});

describe('what meets a rebuild', () => {
  it('a place that goes away in the middle: nothing is told missing for it, and it goes on when the place is back', async () => {
    const before = await asRows(test.house.db);
    await onCopies(async (life) => {
      await beginRebuild(life.house, ['shared', 'second'], 'wren', never);
      for (let times = 1; times < 4; times++) {
        const going = goOnRebuilding(life.house, 'wren', never).catch((error: unknown) => error);
        await until(async () => {
          const [{ n }] = await life.house.db.query<[{ n: number }]>('select count(*)::int as n from intake');
          return n >= times * 2 || undefined;
        });
        renameSync(life.shared, `${life.shared}.away`);
        expect(await going).toBeInstanceOf(Error);
        await expect(goOnRebuilding(life.house, 'wren', never)).rejects.toThrow('Shared drive is away');
        renameSync(`${life.shared}.away`, life.shared);
      }
      expect(await goOnRebuilding(life.house, 'wren', never)).toMatchObject({ missing: 0, refused: [] });
      const now = await asRows(life.house.db);
      for (const [table, rows] of Object.entries(before)) expect({ table, rows: now[table] }).toEqual({ table, rows });
    });
  });

  it('two at once: one does it, and the other says so', async () => {
    await onCopies(async (life) => {
      await beginRebuild(life.house, ['shared', 'second'], 'wren', never);
      const reports = await Promise.all([1, 2, 3].map(() => goOnRebuilding(life.house, 'wren', never)));
      expect(reports.flatMap((one) => (one ? [one.intakes] : []))).toEqual([12]);
    });
  });

  it('a number that was drawn meanwhile: the intake comes back under the next one, and the log says so; no rule comes twice', async () => {
    await onCopies(async (life) => {
      const { revision, rule } = await currentRule(life.house.db);
      await saveRule(
        life.house,
        { rule: { ...rule, fileLine: rule.fileLine.replace('n:0000', 'n:00000') }, note: 'of this life', from: revision },
        'wren',
      );
      await beginRebuild(life.house, ['shared', 'second'], 'wren', never);
      await life.house.db.query(`insert into card (volume, tray, tray_since) values ('MEANWHILE', 'in', now())`);
      await life.house.db.query(
        `insert into intake (number, card_id, state, received_at, received_by, station, source_path, present, totals, words)
         select '2026-0012', max(id), 'open', now(), 'wren', 'elsewhere', '', false, '{}', '' from card`,
      );
      expect(await goOnRebuilding(life.house, 'wren', never)).toMatchObject({ intakes: 12, refused: [] });
      const told = await life.house.db.query<{ number: string; text: string }[]>(
        `select n.number, e.text from event e join intake n on n.id = e.intake_id where e.kind = 'rebuilt' and e.text like '%Its number was%'`,
      );
      expect(told).toEqual([
        {
          number: '2026-0013',
          text: expect.stringContaining('Its number was 2026-0012, which another intake has by now.') as unknown,
        },
      ]);
      const before = (await asRows(test.house.db))['rules']!;
      // The one of a new house, the one of this life, and those that were told and it had not.
      expect((await asRows(life.house.db))['rules']).toHaveLength(before.length + 1);
    });
  });

  it('stopped at any intake it goes on where it was, and nothing is twice', async () => {
    const life = await anotherLife(test, await freshDatabase());
    const before = await asRows(test.house.db);
    try {
      await beginRebuild(life.house, ['shared', 'second'], 'wren', never);
      for (let times = 0; times < 4; times++) {
        const stop = new AbortController();
        const going = goOnRebuilding(life.house, 'wren', stop.signal).catch(() => null);
        await until(async () => {
          const [{ n }] = await life.house.db.query<[{ n: number }]>('select count(*)::int as n from intake');
          return n > times * 2 || undefined;
        });
        stop.abort();
        await going;
      }
      // What is written meanwhile does not stand in its way.
      await writeHouseRecord(life.house, never);
      await goOnRebuilding(life.house, 'wren', never);
      expect(await goOnRebuilding(life.house, 'wren', never)).toBeNull();
      const now = await asRows(life.house.db);
      for (const [table, rows] of Object.entries(before)) expect({ table, rows: now[table] }).toEqual({ table, rows });
    } finally {
      await life.end();
    }
  });
});

async function put0(path: string): Promise<string> {
  await writeFile(path, '');
  return path;
}
