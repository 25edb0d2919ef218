import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { copyFile, mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { itemsOf } from './store/items.js';
import { makeCard, realPictures } from '../testing/cards.js';
import { bring, fileNow, openHouse, type TestHouse } from '../testing/house.js';
import { itemsAnswer, itemViews } from './items.js';
import { cameraBodies, correctClock, judgeItems, splitItems } from './judge.js';
import { eventsOf, theIntake } from '../house/index.js';
import { copiesOf, planOf } from '../filing/index.js';
import { makeAssignment, makeContributor } from '../people/index.js';
import { planMaterial } from '../slip/index.js';
import { everyAssignment } from '../testing/people.js';

let test: TestHouse;
let survey: number;
let noor: number;
let cards = 0;

beforeAll(async () => {
  test = await openHouse();
  noor = await makeContributor(test.house, { name: 'Noor Adeyemi', code: 'NA' }, 'test');
  const days = { from: '2026-04-19', to: '2026-04-19', code: 'T-7', place: '', expectedCards: 1, expectedContributorIds: [] };
  survey = await makeAssignment(test.house, { title: 'Spring tide survey', slug: 'tide-survey', ...days }, 'test');
});
afterAll(() => test.end());

async function card(files: Record<string, number>): Promise<number> {
  const path = join(test.folder, `CARD${++cards}`);
  await makeCard(path, files, cards * 100);
  return bring(test, path);
}
const idsOf = async (intakeId: number, ...paths: string[]) =>
  (await itemsOf(test.house.db, intakeId)).filter(({ path }) => paths.includes(path)).map(({ id }) => id);

describe('footage', () => {
  it('has a role and a profile, which names can say and the plan follows', async () => {
    const id = await card({ 'A/CLIP1.MP4': 500 });
    const [clip] = await idsOf(id, 'A/CLIP1.MP4');
    await judgeItems(test.house, id, { itemIds: [clip!], role: 'supporting', profile: 'flat-2' });
    const [view] = (await itemsAnswer(test.house, id, 0)).items;
    expect(view).toMatchObject({ role: 'supporting', profile: 'flat-2' });
    const { items } = await planMaterial(test.house, test.house.db, id);
    expect(items[0]).toMatchObject({ role: 'supporting', profile: 'flat-2' });
    await judgeItems(test.house, id, { itemIds: [clip!], role: null });
    expect((await itemsAnswer(test.house, id, 0)).items[0]).toMatchObject({ role: null, profile: 'flat-2' });
  });
});

describe('splitting a card', () => {
  it('one card feeds two assignments and two contributors, each in its folder under its name', async () => {
    const id = await card({ 'A/1.JPG': 500, 'A/2.JPG': 500, 'A/2.DNG': 700, 'A/3.JPG': 500 });
    await splitItems(test.house, id, { itemIds: await idsOf(id, 'A/2.JPG'), assignmentId: survey, contributorId: noor }, 'wren');
    const { view } = await planOf(test.house, id);
    expect(view.folders.map(({ path, items }) => [path.split('_').at(-1), items])).toEqual([
      ['reed-planting', 2],
      ['tide-survey', 2],
    ]);
    await fileNow(test.house, id);
    const copies = await copiesOf(test.house.db, id);
    const raw = copies.find(({ from }) => from === 'A/2.DNG')!;
    expect(raw.to).toMatch(/tide-survey\/\d{8}_NA_0001\.dng$/);
    expect((await theIntake(test.house, id)).state).toBe('tallied');
    expect((await eventsOf(test.house.db, id)).map(({ text }) => text)).toContain('2 items: Spring tide survey, Noor Adeyemi.');
    // The survey's contributor has handed in, though the slip names somebody else.
    const handed = (await everyAssignment(test)).find(({ slug }) => slug === 'tide-survey')!;
    expect(handed.receivedCards).toBe(1);
    // What is filed stays where it is.
    expect(await splitItems(test.house, id, { itemIds: await idsOf(id, 'A/1.JPG'), assignmentId: survey }, 'wren')).toBe(0);
  });

  it('two people splitting the same run at once: the second is told', async () => {
    const id = await card({ 'B/1.JPG': 600, 'B/2.JPG': 600 });
    const itemIds = await idsOf(id, 'B/1.JPG', 'B/2.JPG');
    const change = { itemIds, wasAssignmentIds: [null] };
    const outcomes = await Promise.allSettled([
      splitItems(test.house, id, { ...change, assignmentId: survey }, 'wren'),
      splitItems(test.house, id, { ...change, assignmentId: test.slip.assignmentId }, 'tomas'),
    ]);
    expect(outcomes.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    const refused = outcomes.find((one) => one.status === 'rejected');
    expect(String(refused!.reason)).toContain('Somebody else has just given some of these');
  });

  it('to somebody who does not exist is refused, and nothing changes', async () => {
    const id = await card({ 'C/1.JPG': 650 });
    await expect(splitItems(test.house, id, { itemIds: await idsOf(id, 'C/1.JPG'), assignmentId: 9999 }, 'wren')).rejects.toThrow(
      'There is no such assignment.',
    );
    expect((await itemsOf(test.house.db, id))[0]!.assignment).toBeNull();
  });
});

describe('judging', () => {
  it('keeps what somebody thinks, and tells a second browser only what changed', async () => {
    const id = await card({ 'D/1.JPG': 700, 'D/2.MP4': 800 });
    const [photo, clip] = [await idsOf(id, 'D/1.JPG'), await idsOf(id, 'D/2.MP4')];
    const { version } = await itemsAnswer(test.house, id, 0);
    await judgeItems(test.house, id, { itemIds: photo, verdict: 'select', description: 'Heron, wings open', turned: 1 });
    const news = await itemsAnswer(test.house, id, version);
    expect(news.items).toMatchObject([{ path: 'D/1.JPG', verdict: 'select', description: 'Heron, wings open', turned: 1 }]);
    await judgeItems(test.house, id, { itemIds: clip, useFromMs: 1000, useToMs: 2500 });
    await judgeItems(test.house, id, { itemIds: photo, verdict: null });
    expect((await itemViews(test.house, id)).map(({ verdict, description, useToMs }) => [verdict, description, useToMs])).toEqual(
      [
        [null, 'Heron, wings open', null],
        [null, '', 2500],
      ],
    );
  });
});

describe('clock corrections', () => {
  let id: number;
  let before: Awaited<ReturnType<typeof itemViews>>;

  it('move the items of that camera and no others; what the camera wrote stays', async () => {
    const path = join(test.folder, 'CLOCK');
    await realPictures(path, 6, 'goexif');
    await makeCard(path, { 'SOUND/1.WAV': 900 }, 77);
    id = await bring(test, path);
    before = await itemViews(test.house, id);
    const body = (await cameraBodies(test.house, id)).find(({ items }) => items > 0)!;
    const { make, model, serial } = body;
    const moved = await correctClock(test.house, id, { make, model, serial, shift: { kind: 'clock', seconds: 3492 } }, 'wren');
    expect(moved).toBe(body.items);
    for (const item of await itemViews(test.house, id)) {
      const old = before.find((one) => one.id === item.id)!;
      const mine = item.make === make && item.model === model && item.serial === serial;
      const ms = (local: string) => Date.parse(`${local}Z`);
      expect(ms(item.captured.local) - ms(old.captured.local)).toBe(mine ? 3_492_000 : 0);
      expect([item.captured.camera, item.captured.original]).toEqual([old.captured.camera, old.captured.original]);
    }
    // Saying another shift counts from the camera's time, not from the first shift.
    await correctClock(test.house, id, { make, model, serial, shift: { kind: 'clock', seconds: 0 } }, 'wren');
    const local = (views: typeof before) => views.map((item) => `${item.id} ${item.captured.local}`).sort();
    expect(local(await itemViews(test.house, id))).toEqual(local(before));
  });

  it('are kept for a body with a serial number, and offered the next time', async () => {
    await test.house.db.query(
      `update item set make = 'Halden', model = 'M4', serial = '40117732' where intake_id = $1 and kind = 'photo'`,
      [id],
    );
    const change = { make: 'Halden', model: 'M4', serial: '40117732', shift: { kind: 'zone' as const, seconds: -7200 } };
    await correctClock(test.house, id, change, 'wren');
    const [body] = await cameraBodies(test.house, id);
    expect(body!.remembered).toMatchObject({ seconds: -7200, kind: 'zone', saidBy: 'wren' });
    await expect(correctClock(test.house, id, { ...change, serial: 'none' }, 'wren')).rejects.toThrow('No unfiled item');
  });
});

describe('the same bytes, the same names', () => {
  it('the same bytes twice on one card are pointed out once; the same ends with another middle are not the same', async () => {
    const path = join(test.folder, 'TWINS');
    await makeCard(path, { 'A/1.JPG': 300_000 }, 501);
    await mkdir(join(path, 'B'), { recursive: true });
    await copyFile(join(path, 'A/1.JPG'), join(path, 'B/1.JPG'));
    await copyFile(join(path, 'A/1.JPG'), join(path, 'B/2.JPG'));
    execFileSync('sh', ['-c', `printf x | dd of="${join(path, 'B/2.JPG')}" bs=1 seek=150000 conv=notrunc 2>/dev/null`]);
    const items = await itemViews(test.house, await bring(test, path));
    const byPath = new Map(items.map((item) => [item.path, item.twinOf]));
    expect([...byPath.values()].filter(Boolean)).toHaveLength(1);
    expect(byPath.get('B/2.JPG')).toBeNull();
  });

  it('another picture under a name that was filed before is no duplicate, and says so', async () => {
    const first = await card({ 'DCIM/IMG_0001.JPG': 1200 });
    await fileNow(test.house, first);
    const [again] = await itemViews(test.house, await card({ 'DCIM/IMG_0001.JPG': 1300 }));
    expect(again!.alreadyFiled).toBeNull();
    expect(again!.namesake).toMatch(/^2026\//);
  });
});
