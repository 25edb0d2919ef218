import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { join } from 'node:path';
import { RevisionView, RuleMaterial } from '@tally/contract';
import { DEFAULT_RULE, type RuleSource, STARTERS } from '@tally/core/rule';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, openHouse, type TestHouse } from '../testing/house.js';
import { revisions, ruleMaterial, saveRule } from './rules.js';
import { copiesOf, planOf } from '../filing/index.js';
import { theIntake } from '../house/index.js';

let test: TestHouse;
let cards = 0;
beforeAll(async () => {
  test = await openHouse();
});
afterAll(() => test.end());

async function card(files: Record<string, number>): Promise<number> {
  const path = join(test.folder, `CARD${++cards}`);
  await makeCard(path, files, cards * 100);
  return bring(test, path);
}
const newest = async () => (await revisions(test.house.db))[0]!.revision;
const save = async (rule: RuleSource, note = 'a test') => saveRule(test.house, { rule, note, from: await newest() }, 'wren');
const planned = async (id: number) =>
  (await planOf(test.house, id)).view.placements.map(({ folder, name }) => `${folder}/${name}`);

describe('a new house rule', () => {
  it('is a new revision with who, why and what does not hold; the next card follows it, filed ones stay', async () => {
    const first = await card({ 'A/1.JPG': 500 });
    await fileNow(test.house, first);
    const before = await copiesOf(test.house.db, first);

    const academic = STARTERS.find(({ id }) => id === 'academic-year')!.rule;
    const revision = await save(academic, 'We file by school year');
    const [now, old] = await revisions(test.house.db);
    expect(now).toMatchObject({
      revision,
      rule: { ...academic, kinds: {} },
      note: 'We file by school year',
      who: 'wren',
      intakes: 0,
    });
    expect(now!.warnings.map(({ verdict }) => verdict)).toEqual(['in time order']);
    expect(RevisionView.parse(now)).toBeTruthy();
    expect(old).toMatchObject({ rule: DEFAULT_RULE, intakes: 1 });

    const second = await card({ 'A/2.JPG': 500 });
    await fileNow(test.house, second);
    const [copy] = await copiesOf(test.house.db, second);
    expect(copy!.to).toMatch(/^20\d\d-20\d\d\/20\d\d-\d\d\/\d\d_reed-planting\/\d{8}_IB_001\.jpg$/);
    expect((await theIntake(test.house, second)).ruleRevision).toBe(revision);
    expect((await theIntake(test.house, first)).ruleRevision).toBe(old!.revision);
    expect(await copiesOf(test.house.db, first)).toEqual(before);
  });

  it('by which two items get one name is refused with the two', async () => {
    const before = await newest();
    await expect(save({ folderLine: '{captured:yyyy}', fileLine: '{captured:yyyyMMdd}_{original}' })).rejects.toThrow(
      /cannot be the house rule\. unique: Two different items get one name\. For example .+ → 2026\/.+\.jpg; .+ → 2026\/.+\.jpg/,
    );
    await expect(save({ folderLine: 'what?', fileLine: '{n}' })).rejects.toThrow(/legal everywhere/);
    expect(await newest()).toBe(before);
  });

  it.each([
    [
      { folderLine: '{capturd}', fileLine: '{n}' },
      'The folder line, character 2: There is no field called "capturd". Was "captured" meant?',
    ],
    [{ folderLine: 'a', fileLine: 'b/{n}' }, 'The file line, character 1: The file line names a file'],
    [
      { folderLine: 'a/{n}', fileLine: '{n}' },
      'The folder line, character 3: A number in the sequence belongs into the file line.',
    ],
    [{ folderLine: 'a', fileLine: '{n}', kinds: { video: { fileLine: '{nn}' } } }, 'The file line for video, character 2'],
    [{ folderLine: 'a', fileLine: '{n}', settings: { language: 'xx' } }, 'The settings: Month names can be written in'],
    [
      { folderLine: 'a', fileLine: '{n}', settings: { season: { startMonth: 9, label: "'year'" } } },
      'would be the same every year',
    ],
  ])('%j cannot be read', async (rule, words) => {
    await expect(save(rule as RuleSource)).rejects.toThrow(words);
  });

  it('two people saving at once: the second is told and nothing of the first is lost', async () => {
    const from = await newest();
    const one = saveRule(test.house, { rule: { ...DEFAULT_RULE }, note: 'back to days', from }, 'wren');
    const two = saveRule(
      test.house,
      { rule: { folderLine: '{captured:yyyy}', fileLine: '{n:000}' }, note: 'years', from },
      'june',
    );
    const outcomes = await Promise.allSettled([one, two]);
    expect(outcomes.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    const refused = outcomes.find((outcome) => outcome.status === 'rejected')!;
    expect(String(refused.reason)).toContain(`saved revision ${await newest()} in the meantime`);
  });

  it('a revision cannot be changed, not even in the database', async () => {
    await expect(test.house.db.query(`update house_rule set note = 'x'`)).rejects.toThrow();
  });
});

describe('sequences', () => {
  it('that count within an intake, begin where the house says, and run on in the same one', async () => {
    await save({
      folderLine: '{captured:yyyy}',
      fileLine: '{intake}_{n:000}',
      settings: { sequence: { scope: 'intake', start: 100 } },
    });
    const id = await card({ 'A/1.JPG': 500, 'A/2.JPG': 600, 'A/2.DNG': 700 });
    const { number } = await theIntake(test.house, id);
    const expected = ['100.jpg', '101.dng', '101.jpg'].map((end) => `${number}_${end}`);
    expect((await planned(id)).map((path) => path.split('/').at(-1)).sort()).toEqual(expected);
    await fileNow(test.house, id);
    expect((await copiesOf(test.house.db, id)).map(({ to }) => to.split('/').at(-1)).sort()).toEqual(expected);
  });

  it('that never end go on with the next card', async () => {
    await save({ folderLine: 'all', fileLine: '{n:0000}', settings: { sequence: { scope: 'never ends', start: 1 } } });
    const [one, two] = [await card({ 'A/1.JPG': 510, 'A/2.JPG': 610 }), await card({ 'A/3.JPG': 710 })];
    await fileNow(test.house, one);
    expect(await planned(two)).toEqual(['all/0003.jpg']);
  });

  it('that only tell equal names apart count what is promised to others', async () => {
    await save({
      folderLine: 'same',
      fileLine: '{original.number}[-{n}]',
      settings: { sequence: { scope: 'same name', start: 1 } },
    });
    const [one, two] = [await card({ 'A/X_0001.JPG': 520 }), await card({ 'A/Y_0001.JPG': 620, 'A/Y_0001.DNG': 720 })];
    await fileNow(test.house, one);
    expect((await planned(two)).sort()).toEqual(['same/0001-2.dng', 'same/0001-2.jpg']);
  });
});

describe('the plan', () => {
  it('tells dates that should be looked at, and what nobody says', async () => {
    await save({ folderLine: '{captured:yyyy}/{camera}', fileLine: '{n:000}' });
    const id = await card({ 'A/1.JPG': 530 });
    const { view } = await planOf(test.house, id);
    // A picture without metadata is dated by its file.
    expect(view.doubts.map(({ doubt }) => doubt)).toEqual(['no date in the file']);
    expect(view.unsaid.map(({ field }) => field)).toEqual(['camera']);
    expect(view.placements[0]!.folder).toMatch(/^\d{4}\/unknown$/);
  });
});

describe('material to try a rule on', () => {
  it('is the newest intake, or one that is asked for, with the folders and names the house knows', async () => {
    const id = await card({ 'A/9.JPG': 540 });
    const material = RuleMaterial.parse(await ruleMaterial(test.house, undefined));
    expect(material.intake?.id).toBe(id);
    expect(material.items.map(({ path }) => path)).toEqual(['A/9.JPG']);
    expect(material.slip).toMatchObject({
      contributor: { code: 'IB' },
      assignment: { slug: 'reed-planting', from: '2026-04-18' },
    });
    expect(material.known.contributors).toEqual([{ code: 'IB', name: 'Ines Barrow' }]);
    expect(material.folders).toContain('all');
    await expect(ruleMaterial(test.house, 999_999)).rejects.toThrow('no such intake');
  });
});
