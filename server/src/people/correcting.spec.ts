import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { LogQuery } from '@tally/contract';
import { join } from 'node:path';
import { logPage } from '../shelf/index.js';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, openHouse, type TestHouse } from '../testing/house.js';
import { deskNow } from '../counter/index.js';
import { changeAssignment, changeContributor, listContributors, makeContributor } from './index.js';
import { everyAssignment } from '../testing/people.js';

let test: TestHouse;
let intake: number;
beforeAll(async () => {
  test = await openHouse();
  intake = await bring(test, await makeCard(join(test.folder, 'CARD'), { '1.JPG': 4001, '2.JPG': 4002 }));
});
afterAll(() => test.end());

const found = async (words: string) => (await logPage(test.house, LogQuery.parse({ words }))).intakes.map(({ id }) => id);
const person = async (code: string) => (await listContributors(test.house.db, '2026-04-21')).find((one) => one.code === code);
const assignment = async (slug: string) => (await everyAssignment(test)).find((one) => one.slug === slug);

describe('a name that was mistyped', () => {
  it('is corrected: the logbook finds it by the new name, and by the old one still', async () => {
    await changeContributor(test.house, test.slip.contributorId, { name: 'Inés Barrow-Hale' }, 'wren');
    expect(await person('IB')).toMatchObject({ name: 'Inés Barrow-Hale', retired: false });
    expect(await found('barrow-hale')).toEqual([intake]);
    expect(await found('ines barrow')).toEqual([intake]);
  });

  it('a code is changed while no file is called by it, and keeps meaning the same person afterwards', async () => {
    await changeContributor(test.house, test.slip.contributorId, { code: 'IBH' }, 'wren');
    expect(await person('IBH')).toBeDefined();
    const other = await makeContributor(test.house, { name: 'Priya Lind', code: 'PL' }, 'wren');
    await expect(changeContributor(test.house, other, { code: 'IBH' }, 'wren')).rejects.toThrow('belongs to somebody already');
    await fileNow(test.house, intake);
    await expect(changeContributor(test.house, test.slip.contributorId, { code: 'IB' }, 'wren')).rejects.toThrow(
      'The code IBH stands in the names of 2 files: it stays theirs.',
    );
    expect(await person('IBH')).toMatchObject({ items: 2 });
  });

  it('of an assignment is corrected as well, its days too; its short name stays once it stands in names', async () => {
    const { assignmentId } = test.slip;
    await changeAssignment(test.house, assignmentId, { title: 'Reed planting, first day', to: '2026-04-19' }, 'wren');
    expect(await assignment('reed-planting')).toMatchObject({ title: 'Reed planting, first day', to: '2026-04-19' });
    expect(await found('first day')).toEqual([intake]);
    await expect(changeAssignment(test.house, assignmentId, { slug: 'reeds' }, 'wren')).rejects.toThrow(
      'stands in the names of 2',
    );
    await expect(changeAssignment(test.house, assignmentId, { from: '2026-05-01' }, 'wren')).rejects.toThrow(
      'before the first day',
    );
    await expect(changeAssignment(test.house, 9999, { title: 'x' }, 'wren')).rejects.toThrow('There is no such assignment.');
  });
});

describe('who and what is retired', () => {
  it('is not offered or expected any more, keeps what was filed, and comes back', async () => {
    const { assignmentId, contributorId } = test.slip;
    await changeAssignment(test.house, assignmentId, { expectedCards: 4 }, 'wren');
    expect((await deskNow(test.house)).expected.map(({ slug }) => slug)).toEqual(['reed-planting']);
    await changeAssignment(test.house, assignmentId, { retired: true }, 'wren');
    await changeContributor(test.house, contributorId, { retired: true }, 'wren');
    expect((await deskNow(test.house)).expected).toEqual([]);
    expect(await person('IBH')).toMatchObject({ retired: true, items: 2 });
    await changeContributor(test.house, contributorId, { retired: false }, 'wren');
    expect(await person('IBH')).toMatchObject({ retired: false });
  });
});
