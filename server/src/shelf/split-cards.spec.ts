import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { LogQuery } from '@tally/contract';
import { join } from 'node:path';
import { theIntake } from '../house/index.js';
import { listContributors, makeAssignment, makeContributor } from '../people/index.js';
import { itemsOf, splitItems, takeItems } from '../seeing/index.js';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, openHouse, type TestHouse } from '../testing/house.js';
import { exportLog, logPage } from './logbook.js';
import { everyAssignment } from '../testing/people.js';

let test: TestHouse;
let id: number;
let other: { contributorId: number; assignmentId: number };
beforeAll(async () => {
  test = await openHouse();
  const contributorId = await makeContributor(test.house, { name: 'Priya Lind', code: 'PL' }, 'test');
  const assignmentId = await makeAssignment(
    test.house,
    {
      ...{ title: 'Heron count', slug: 'heron-count', code: '', from: '2026-04-18', to: '2026-04-18', place: '' },
      ...{ expectedCards: 1, expectedContributorIds: [contributorId] },
    },
    'test',
  );
  other = { contributorId, assignmentId };
  const card = await makeCard(join(test.folder, 'SPLIT'), { '1.JPG': 4001, '2.JPG': 4002, '3.JPG': 4003 });
  // Nothing on the slip: everything is said of the items.
  id = await bring(test, card, {});
  const items = await itemsOf(test.house.db, id);
  const ids = (from: number, to: number) => items.slice(from, to).map((item) => item.id);
  await splitItems(test.house, id, { itemIds: ids(0, 2), ...test.slip }, 'wren');
  await splitItems(test.house, id, { itemIds: ids(2, 3), ...other }, 'wren');
  await fileNow(test.house, id);
});
afterAll(() => test.end());

const find = async (query: object) => (await logPage(test.house, LogQuery.parse(query))).intakes.map((row) => row.id);

describe('a card that is split between two people and two assignments', () => {
  it('is found under both of each', async () => {
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'tallied', contributor: null, assignment: null });
    for (const query of [
      { contributor: 'IB' },
      { contributor: 'PL' },
      { assignment: 'reed-planting' },
      { assignment: 'heron-count' },
    ])
      expect(await find(query)).toEqual([id]);
    expect(await find({ contributor: 'XX' })).toEqual([]);
  });

  it('is counted by what its items say, for each of them', async () => {
    const people = await listContributors(test.house.db, '2026-04-21');
    expect(people.map(({ code, intakes, items }) => [code, intakes, items])).toEqual([
      ['IB', 1, 2],
      ['PL', 1, 1],
    ]);
    const assignments = await everyAssignment(test);
    expect(assignments.map(({ slug, receivedCards, expected }) => [slug, receivedCards, expected[0]!.handedIn]).sort()).toEqual([
      ['heron-count', 1, true],
      ['reed-planting', 1, true],
    ]);
    expect((await theIntake(test.house, id)).parts).toMatchObject([
      { contributor: { code: 'IB' }, assignment: { slug: 'reed-planting' }, items: 2, filed: 2 },
      { contributor: { code: 'PL' }, assignment: { slug: 'heron-count' }, items: 1, filed: 1 },
    ]);
  });

  it('names them all in the exported log', async () => {
    let csv = '';
    for await (const piece of exportLog(test.house, LogQuery.parse({}), 'csv')) csv += piece;
    expect(csv).toContain('Ines Barrow; Priya Lind');
    expect(csv).toContain('Reed planting day; Heron count');
  });

  it('whose items were all left has not handed anything in', async () => {
    const card = await makeCard(join(test.folder, 'LEFT'), { '7.JPG': 5001, '8.JPG': 5002 }, 3);
    const next = await bring(test, card);
    const [first] = await itemsOf(test.house.db, next);
    await splitItems(test.house, next, { itemIds: [first!.id], ...other }, 'wren');
    await takeItems(test.house, next, { itemIds: [first!.id], taken: false });
    await fileNow(test.house, next);
    expect((await everyAssignment(test)).find(({ slug }) => slug === 'heron-count')).toMatchObject({ receivedCards: 1 });
    expect((await everyAssignment(test)).find(({ slug }) => slug === 'reed-planting')).toMatchObject({
      receivedCards: 2,
    });
  });
});
