import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { folderOf } from '@tally/core/rule';
import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { meetPlaces, placeIsKnown, placeViews } from '../driving/index.js';
import { fillPlace } from '../keeping/index.js';
import { changeContributor } from '../people/index.js';
import { writeManifests } from '../proving/index.js';
import { askAdopt, askCheck, findingsOf, runAdoption, runCheck } from '../tending/index.js';
import { freshDatabase } from '../testing/database.js';
import { anotherLife, makeSlip, never, openHouse, type TestHouse } from '../testing/house.js';
import { allComeOut, backedUp, bringing, filedCard, firstOf, verdictOf } from '../testing/lives.js';
import { bringBack, lookAtBackup } from './bringing-back.js';
import { unknownRecords } from './unknown-records.js';

/* A house whose database is an older one, or a new one: nothing that stands on its drive is lost by it. */

let test: TestHouse;
beforeAll(async () => {
  test = await openHouse();
});
afterAll(() => test.end());

describe('last night’s backup brought back, when two cards were filed since', () => {
  it('the log goes on and verifies, no number is drawn twice, nobody’s record is replaced, every original comes out', async () => {
    const folder = await backedUp(test, join(test.folder, 'nightly'));
    const since = [await filedCard(test), await filedCard(test)];
    const first = await filedCard(test);
    const records = await Promise.all(
      [...since, first].map(({ number, originals }) => readRecord(number, [...originals.keys()][0]!)),
    );
    const database = await freshDatabase();
    const dataDir = join(test.folder, 'data-back');
    const whole = await lookAtBackup(bringing(test, database, folder, dataDir));
    expect(await bringBack(bringing(test, database, folder, dataDir), whole)).toEqual({ others: [] });
    const back = await anotherLife(test, database, { dataDir });
    try {
      expect(await verdictOf(back)).toMatchObject({ problems: [], waiting: 0 });
      await meetPlaces(back.house);
      const unknown = await unknownRecords(back.house, never);
      expect(new Set(unknown.map(({ number }) => number))).toEqual(new Set([...since, first].map(({ number }) => number)));
      const after = await filedCard(back);
      expect(Number(after.number.slice(5))).toBe(Number(first.number.slice(5)) + 1);
      for (const one of [...since, first, after]) await allComeOut(test, one.originals);
      const now = await Promise.all(
        [...since, first].map(({ number, originals }) => readRecord(number, [...originals.keys()][0]!)),
      );
      expect(now).toEqual(records);
      const verdict = await verdictOf(back);
      expect(verdict.problems).toEqual([]);
      expect(verdict.notes).toHaveLength(1);
    } finally {
      await back.end();
    }
  });

  it('where the same number was drawn all the same, each record has a name of its own', async () => {
    const folder = await backedUp(test, join(test.folder, 'nightly'));
    const lost = await filedCard(test);
    const database = await freshDatabase();
    const dataDir = join(test.folder, 'data-twice');
    await bringBack(bringing(test, database, folder, dataDir), await lookAtBackup(bringing(test, database, folder, dataDir)));
    const back = await anotherLife(test, database, { dataDir });
    try {
      // As if the places had been away when the number was drawn.
      await back.house.db.query('update place set met = 99');
      const twin = await filedCard(back);
      expect(twin.number).toBe(lost.number);
      const names = (await readdir(join(test.shared, folderOf(firstOf(lost))))).filter((name) =>
        name.startsWith(`intake-${lost.number}`),
      );
      // The first is of the life before this one, which drew that number, too.
      expect(names.sort()).toEqual([2, 3].map((n) => `intake-${lost.number}-${n}.json`).concat(`intake-${lost.number}.json`));
      await allComeOut(test, lost.originals);
      await allComeOut(test, twin.originals);
      // Written again it keeps its name, and replaces its own only.
      await back.house.db.query('insert into beside_due (intake_id, folder, place_id) select $1, $2, id from place', [
        twin.id,
        folderOf(firstOf(twin)),
      ]);
      await writeManifests(back.house);
      expect(
        (await readdir(join(test.shared, folderOf(firstOf(lost)))))
          .filter((name) => name.startsWith(`intake-${lost.number}`))
          .sort(),
      ).toEqual(names);
      await allComeOut(test, lost.originals);
      const { rows } = {
        rows: await back.house.db.query<{ text: string }[]>(
          `select text from event where kind = 'manifest' and text like '%is of another house%'`,
        ),
      };
      // Once for each of two folders at each of two places, however often it is written.
      expect(rows).toHaveLength(4);
    } finally {
      await back.end();
    }
  });

  const readRecord = (number: string, to: string) =>
    readFile(join(test.shared, to.split('/').slice(0, -1).join('/'), `intake-${number}.json`), 'utf8');
});

describe('the database lost, and a new house on the drive of the old one', () => {
  it('is told whose drive it is, goes on above its numbers when somebody says that it is that one, and costs no way back', async () => {
    const old = [await filedCard(test), await filedCard(test)];
    const folders = new Set(old.flatMap(({ originals }) => [...originals.keys()].map(folderOf)));
    const standing = async (root: string) => {
      const found: string[] = [];
      for (const folder of folders)
        for (const at of [folder, `${folder}/.tally-second`])
          for (const name of (await readdir(join(root, at))).filter((one) => one.startsWith('intake-')))
            found.push(`${at}/${name} ${await readFile(join(root, at, name), 'utf8')}`);
      return found.sort();
    };
    const before = await Promise.all([standing(test.shared), standing(test.second)]);
    const anew = await anotherLife(test, await freshDatabase(), { dataDir: join(test.folder, 'data-anew') });
    const back = { ...anew, slip: await makeSlip(anew.house) };
    try {
      const problems = async () => (await placeViews(back.house)).map(({ problem, asks }) => ({ problem, asks }));
      const words = (id: string, name: string) =>
        `${id} carries the mark of “${name}” of “Ostrel Bay Tidelands Trust”, another house or an earlier life of this one. ` +
        `If this is that drive, say so: on the Drive page, or by tally drive known ${id}. ` +
        `In a new house its logbook can be rebuilt from it, there or by tally rebuild ${id}`;
      expect(await problems()).toEqual([
        { problem: expect.stringMatching(new RegExp(`${words('shared', 'Shared drive')}$`)) as unknown, asks: 'another mark' },
        { problem: expect.stringMatching(new RegExp(`${words('second', 'Second copy')}$`)) as unknown, asks: 'another mark' },
      ]);
      // Two that are mistaken for each other are told apart.
      await placeIsKnown(back.house, 'shared', 'wren', never);
      await expect(placeIsKnown(back.house, 'shared', 'wren', never)).rejects.toThrow('Shared drive is known');
      const swapped = {
        ...back.house,
        settings: { ...back.settings, places: back.settings.places.map((one) => ({ ...one, root: test.shared })) },
      };
      await expect(placeIsKnown(swapped, 'second', 'wren', never)).rejects.toThrow(
        'is the drive of Shared drive: correct the paths',
      );
      await placeIsKnown(back.house, 'second', 'wren', never);
      expect(await problems()).toEqual([1, 2].map(() => ({ problem: null, asks: null })));

      const fresh = await filedCard(back);
      const highest = Math.max(...old.map(({ number }) => Number(number.slice(5))));
      expect(Number(fresh.number.slice(5))).toBe(highest + 1);
      const how = { how: 'every byte', names: false, strict: false } as const;
      await runCheck(back.house, await askCheck(back.house, 'shared', how, 'test'), never);
      // Every record of the first life is told, with whose it is; nothing is proposed for it.
      const others = await findingsOf(back.house, 'shared', { kind: 'record of others', after: 0, limit: 200 });
      const records = (await Promise.all([...folders].map((folder) => readdir(join(test.shared, folder))))).flat();
      const ofBefore = records.filter((name) => name.startsWith('intake-') && !name.includes(fresh.number));
      expect(others.findings.map(({ path }) => path.split('/').at(-1)).sort()).toEqual(ofBefore.sort());
      expect(others.findings[0]!.what).toMatch(/^intake 2026-\d{4} of Ostrel Bay Tidelands Trust$/);
      const adopted = [...folders].map((folder) => ({ folder, contributorId: null, assignmentId: null, title: null, day: null }));
      await runAdoption(back.house, await askAdopt(back.house, 'shared', { folders: adopted }, 'test'), never);
      for (let tries = 0; tries < 5; tries++) {
        await fillPlace(back.house, 'second', never);
        await writeManifests(back.house);
      }
      // Every record of the first life stands as it was, and its second; what this one wrote has other names.
      for (const [index, root] of [test.shared, test.second].entries())
        expect((await standing(root)).filter((one) => before[index]!.includes(one))).toEqual(before[index]);
      for (const one of [...old, fresh]) await allComeOut(test, one.originals);
      // The credit is written anew by the new house: the way back leads through both lives' records.
      await changeContributor(back.house, back.slip.contributorId, { name: 'Ines Barrow-Lund' }, 'test');
      await writeManifests(back.house);
      for (const one of [...old, fresh]) await allComeOut(test, one.originals);
    } finally {
      await back.end();
    }
  });
});
