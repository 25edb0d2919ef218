import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { MendAsk } from '@tally/contract';
import { rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { existsSync } from 'node:fs';
import { copiesOf } from '../filing/index.js';
import { fillPlace } from '../keeping/index.js';
import { assignmentsOn, unsortedAssignment } from '../people/index.js';
import { writeManifests } from '../proving/index.js';
import { makeCard, put } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../testing/house.js';
import { carryOutAll } from './carrying.js';
import { askCheck, runCheck } from './checking.js';
import { beginMend, planMend, takeBack } from './mending.js';
import { foundTogether, findingsOf } from './viewing.js';

/*
 * Filed loosely now, sorted on a quiet day; and what was found, by folder.
 */
let test: TestHouse;
let seed = 0;
beforeAll(async () => (test = await openHouse({}, [{ id: 'away', kind: 'off-site copy', device: 'a box elsewhere' }])));
afterAll(() => test.end());

async function filed(assignmentId: number, count = 3) {
  const names = Array.from({ length: count }, (_, n) => [`DCIM/100TEST/P_${n + 1}.JPG`, 900 + n] as const);
  const card = await makeCard(join(test.folder, `card-${++seed}`), Object.fromEntries(names), seed);
  const id = await bring(test, card, { ...test.slip, assignmentId });
  await fileNow(test.house, id);
  await fillPlace(test.house, 'away', never, false);
  const items = await test.house.db.query<{ id: number }[]>('select id from item where intake_id = $1 order by id', [id]);
  const paths = await pathsOf(id);
  return { id, itemIds: items.map((item) => item.id), paths };
}

async function mend(ask: MendAsk) {
  const plan = await planMend(test.house, ask);
  const answer = await beginMend(test.house, ask, plan.seal, 'test');
  if (answer.outcome !== 'begun') throw new Error('changed');
  await carryOutAll(test.house, never);
  await writeManifests(test.house);
  return answer.id;
}

const check = async () =>
  runCheck(
    test.house,
    await askCheck(test.house, 'shared', { how: 'size and time', names: false, strict: false }, 'test'),
    never,
  );
const pathsOf = async (id: number) => (await copiesOf(test.house.db, id)).map(({ to }) => to);

describe('what is filed loosely', () => {
  it('has an assignment of its own, made once, which no day proposes', async () => {
    const [one, two] = await Promise.all([unsortedAssignment(test.house, 'a'), unsortedAssignment(test.house, 'b')]);
    expect(one).toBe(two);
    expect(await assignmentsOn(test.house.db, ['2026-04-21'])).toEqual([]);
  });

  it('is dropped on a folder, and belongs to what is filed there, in every place; taken back, it is unsorted again', async () => {
    const sorted = await filed(test.slip.assignmentId);
    const loose = await filed(await unsortedAssignment(test.house, 'test'));
    const folder = dirname(loose.paths[0]!);
    expect(folder).toContain('unsorted');
    const onto = dirname(sorted.paths[0]!);
    const id = await mend({ kind: 're-file', itemIds: loose.itemIds.slice(0, 1), asIn: onto });
    const after = await pathsOf(loose.id);
    expect(after.map(dirname)).toEqual([onto, folder, folder]);
    for (const root of [test.shared, test.second]) expect(existsSync(join(root, after[0]!))).toBe(true);
    await takeBack(test.house, id, 'test');
    await carryOutAll(test.house, never);
    expect(await pathsOf(loose.id)).toEqual(loose.paths);

    // The whole folder, on the level above: all that is filed below it is of one assignment, but for what is loose itself.
    await expect(planMend(test.house, { kind: 're-file folder', folder, asIn: '' })).rejects.toThrow(/several assignments/);
    await mend({ kind: 're-file folder', folder, asIn: onto });
    expect((await pathsOf(loose.id)).map(dirname)).toEqual([onto, onto, onto]);
    expect(existsSync(join(test.shared, folder))).toBe(false);
    await expect(planMend(test.house, { kind: 're-file', itemIds: loose.itemIds, asIn: 'nowhere' })).rejects.toThrow(
      /Nothing with an assignment is filed in nowhere/,
    );
  });
});

describe('what was found', () => {
  it('is told by kind and folder, what is lost first, page by page, and mended all at once', async () => {
    const { paths } = await filed(test.slip.assignmentId, 4);
    const folder = dirname(paths[0]!);
    await rm(join(test.shared, paths[0]!));
    await rm(join(test.shared, paths[1]!));
    await put(join(test.shared, folder, 'Thumbs.db'), 'x');
    await put(join(test.shared, 'z', 'Thumbs.db'), 'x');
    await put(join(test.shared, 'z', '.DS_Store'), 'x');
    await check();
    const all = await foundTogether(test.house, 'shared', { limit: 60 });
    expect(all.together.map(({ kind, folder: where, findings }) => [kind, where, findings])).toEqual([
      ['missing', folder, 2],
      ['leftover', folder, 1],
      ['leftover', 'z', 2],
    ]);
    expect(all.next).toBeNull();
    expect(all.together[0]!.first.path).toBe([paths[0], paths[1]].sort()[0]);
    const paged = [];
    for (let from: typeof all.next = null; ;) {
      const after = from ? { afterKind: from.kind, afterFolder: from.folder } : {};
      const page = await foundTogether(test.house, 'shared', { limit: 1, ...after });
      paged.push(...page.together);
      if (!page.next) break;
      from = page.next;
    }
    expect(paged).toEqual(all.together);
    expect((await foundTogether(test.house, 'shared', { kind: 'leftover', limit: 60 })).together).toHaveLength(2);
    const within = await findingsOf(test.house, 'shared', { kind: 'leftover', in: 'z', after: 0, limit: 10 });
    expect(within.findings.map(({ path }) => path).sort()).toEqual(['z/.DS_Store', 'z/Thumbs.db']);

    await mend({ kind: 'findings in', placeId: 'shared', finding: 'leftover', folder: 'z' });
    await mend({ kind: 'findings in', placeId: 'shared', finding: 'missing', folder });
    await fillPlace(test.house, 'shared', never, false);
    expect(existsSync(join(test.shared, paths[1]!))).toBe(true);
    await check();
    expect((await foundTogether(test.house, 'shared', { limit: 60 })).together).toMatchObject([{ kind: 'leftover', folder }]);
    // The folder that nothing stood in any more went with them.
    expect(existsSync(join(test.shared, 'z'))).toBe(false);
    await expect(planMend(test.house, { kind: 'findings in', placeId: 'shared', finding: 'missing', folder })).rejects.toThrow(
      /None of these is found any more/,
    );
  });
});
