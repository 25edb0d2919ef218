import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from '@jest/globals';
import { mkdir, mkdtemp, readdir, readFile, rename, rm, symlink, unlink, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { makeCard, noise, put, realPictures } from '../testing/cards.js';
import { writeTakenOut } from '../testing/inside.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../testing/house.js';
import { compareAll, tool, xxh128sums } from '../testing/tools.js';
import { copiesOf } from './store/filed.js';
import { carryOut } from './carry-out.js';
import { beginFiling, tryAgain } from './file.js';
import { planOf } from './plan.js';
import { eventsOf, theIntake } from '../house/index.js';
import { itemsOf, itemViews, takeItems } from '../seeing/index.js';
import { deskNow, giveBack } from '../counter/index.js';
import { cardVanished, readIntake, receiveCard } from '../arriving/index.js';
import { changeSlip } from '../slip/index.js';
import { everyAssignment } from '../testing/people.js';

let test: TestHouse;
beforeAll(async () => (test = await openHouse()));
afterAll(() => test.end());

let count = 0;
const newCard = (name = 'CARD') => join(test.folder, 'cards', String(++count), name);
const planned = async (id: number) => (await planOf(test.house, id)).view;
const treeOf = (root: string) =>
  tool('find', root, '-type', 'f', '-not', '-name', '.tally-place.json', '-printf', '%P\\n')
    .trim()
    .split('\n')
    .filter(Boolean)
    .sort();
const said = async (id: number) => (await eventsOf(test.house.db, id)).map((event) => event.text).join('\n');

/** Each copy, without the credit inside it, is compared with its source by cmp, in both places; no temporary file is left. */
async function proveByCmp(id: number, card: string): Promise<void> {
  const out = await mkdtemp(join(test.folder, 'taken-out-'));
  const copies = await copiesOf(test.house.db, id);
  const pairs: [string, string][] = [];
  for (const { from, to } of copies)
    for (const place of [test.shared, test.second]) {
      const file = join(out, String(pairs.length));
      await writeTakenOut(test.house, join(place, to), file);
      pairs.push([join(card, from), file]);
    }
  compareAll(pairs);
  await rm(out, { recursive: true });
  expect(copies.map(({ hash }) => hash)).toEqual(xxh128sums(copies.map(({ from }) => join(card, from))));
  for (const place of [test.shared, test.second]) expect(treeOf(place).filter((path) => path.includes('.part'))).toEqual([]);
}

describe('from a card to proven copies and a line in the log', () => {
  it('files real pictures into both places, byte for byte, and proves it', async () => {
    const card = newCard('REAL');
    await realPictures(card, 12);
    const id = await bring(test, card);
    await fileNow(test.house, id);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'tallied', tray: 'to give back', filed: 12, note: null });
    await proveByCmp(id, card);
    const names = (await copiesOf(test.house.db, id)).map(({ to }) => to);
    expect(names.every((name) => /^\d{4}\/\d{4}-\d\d\/\d{4}-\d\d-\d\d_reed-planting\/\d{8}_IB_\d{4}\.jpg$/.test(name))).toBe(
      true,
    );
    expect(await said(id)).toMatch(/received.*\n.*Slip: .*Ines Barrow, Reed planting day.*\nFiling 12 items.*\n12 items tally/s);
  });

  it('the card itself is never touched', async () => {
    const card = await makeCard(newCard(), { 'DCIM/1.JPG': 5000, 'DCIM/2.JPG': 0 }, 50);
    const before = tool('find', card, '-printf', '%P %s %T@ %C@ %m\\n');
    const id = await bring(test, card);
    await fileNow(test.house, id);
    expect(tool('find', card, '-printf', '%P %s %T@ %C@ %m\\n')).toBe(before);
  });

  it('what is shown is what happens', async () => {
    const card = await makeCard(newCard(), { 'A/1.JPG': 100, 'A/1.DNG': 200, 'B/2.MP4': 300, 'B/2.XML': 10 }, 51);
    const id = await bring(test, card);
    const shown = await planned(id);
    await fileNow(test.house, id);
    const done = await copiesOf(test.house.db, id);
    expect(new Map(done.map(({ from, to }) => [from, to]))).toEqual(
      new Map(shown.placements.map((p) => [p.from, `${p.folder}/${p.name}`])),
    );
    // Companions share the number.
    const numberOf = (from: string) => /_(\d{4})\./.exec(done.find((copy) => copy.from === from)!.to)![1];
    expect(numberOf('A/1.JPG')).toBe(numberOf('A/1.DNG'));
    expect(numberOf('B/2.MP4')).toBe(numberOf('B/2.XML'));
  });

  it('hostile names are filed byte for byte under plain ones; links and index files stay, with the reason', async () => {
    const card = newCard();
    const names = [
      'new\nline.jpg',
      'quote"\'$(x).jpg',
      'emoji📷.jpg',
      `${'x'.repeat(251)}.jpg`,
      '-rf.jpg',
      'dots...jpg',
      'no-extension',
      'con.jpg',
    ];
    for (const [index, name] of names.entries()) await put(join(card, name), noise(1000, 600 + index));
    await writeFile(Buffer.concat([Buffer.from(`${card}/`), Buffer.from([0xff, 0xfe]), Buffer.from('.jpg')]), noise(10, 700));
    await symlink('/etc/passwd', join(card, 'link.jpg'));
    await put(join(card, 'MISC/INDEX.DAT'), 'index');
    const id = await bring(test, card);
    await fileNow(test.house, id);
    const done = await copiesOf(test.house.db, id);
    expect(done).toHaveLength(names.length + 1);
    compareAll(
      done.filter(({ from }) => !from.includes('\uFFFD')).map(({ from, to }) => [join(card, from), join(test.shared, to)]),
    );
    const odd = done.find(({ from }) => from.includes('\uFFFD'))!;
    expect(await readFile(join(test.shared, odd.to))).toEqual(noise(10, 700));
    const views = await itemViews(test.house, id);
    expect(views.find((item) => item.path === 'link.jpg')).toMatchObject({
      problem: 'a symbolic link: not followed, not filed',
      filedAs: null,
    });
    expect(views.find((item) => item.path === 'MISC/INDEX.DAT')).toMatchObject({ setAside: 'camera index', filedAs: null });
  });

  it('an empty card is said to be empty', async () => {
    const card = newCard('EMPTY');
    await mkdir(card, { recursive: true });
    const id = await receiveCard(test.house, card, 'test');
    expect(await theIntake(test.house, id)).toMatchObject({ items: 0, note: 'There is nothing to file on this card.' });
    await expect(beginFiling(test.house, id, 'x', 'test')).rejects.toThrow(/does not say/);
  });

  it('nothing taken and nothing said are answered in words', async () => {
    const card = await makeCard(newCard(), { '1.JPG': 10 }, 52);
    const id = await receiveCard(test.house, card, 'test');
    await readIntake(test.house, id, never);
    await expect(beginFiling(test.house, id, 'x', 'test')).rejects.toThrow(
      'The slip does not say the contributor and the assignment yet.',
    );
    await changeSlip(test.house, id, test.slip, 'test');
    const [item] = await itemsOf(test.house.db, id);
    await takeItems(test.house, id, { itemIds: [item!.id], taken: false });
    await expect(beginFiling(test.house, id, 'x', 'test')).rejects.toThrow('Nothing is taken');
  });

  it('an item left on the card can be filed later, with the next number', async () => {
    const card = await makeCard(newCard(), { '1.JPG': 11, '2.JPG': 12 }, 53);
    const id = await bring(test, card);
    const second = (await itemsOf(test.house.db, id)).find((item) => item.path === '2.JPG')!;
    await takeItems(test.house, id, { itemIds: [second.id], taken: false });
    await fileNow(test.house, id);
    expect((await copiesOf(test.house.db, id)).map(({ from }) => from)).toEqual(['1.JPG']);
    await takeItems(test.house, id, { itemIds: [second.id], taken: true });
    await fileNow(test.house, id);
    expect((await copiesOf(test.house.db, id)).map(({ from }) => from).sort()).toEqual(['1.JPG', '2.JPG']);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'tallied', filed: 2 });
  });

  it('companions are taken and left together', async () => {
    const card = await makeCard(newCard(), { 'A/1.JPG': 21, 'A/1.DNG': 22, 'A/2.JPG': 23 }, 54);
    const id = await bring(test, card);
    const raw = (await itemsOf(test.house.db, id)).find((item) => item.path === 'A/1.DNG')!;
    await takeItems(test.house, id, { itemIds: [raw.id], taken: false });
    expect((await itemsOf(test.house.db, id)).filter((item) => item.taken).map((item) => item.path)).toEqual(['A/2.JPG']);
  });
});

describe('a card that was here before', () => {
  it('filed a second time files nothing twice', async () => {
    const card = await makeCard(newCard('AGAIN'), { '1.JPG': 31, '2.JPG': 32 }, 55);
    const id = await bring(test, card);
    await fileNow(test.house, id);
    const before = treeOf(test.shared);
    const again = await receiveCard(test.house, card, 'test');
    expect(again).toBe(id);
    await expect(fileNow(test.house, again)).rejects.toThrow('Nothing is taken');
    expect(treeOf(test.shared)).toEqual(before);
  });

  it('with new pictures is a new intake of the same card: what is filed is marked, confirmed and left', async () => {
    const card = await makeCard(newCard('GROWN'), { '1.JPG': 200_001, '2.JPG': 200_002 }, 56);
    const first = await bring(test, card);
    await changeSlip(test.house, first, { cardLabel: 'C-900' }, 'test');
    await fileNow(test.house, first);
    await put(join(card, '3.JPG'), noise(33, 5603), new Date('2026-04-18T11:00:00Z'));
    const second = await bring(test, card);
    expect(second).not.toBe(first);
    expect(await theIntake(test.house, second)).toMatchObject({ card: { label: 'C-900' }, alreadyFiled: 2, taken: 1 });
    const marked = (await itemsOf(test.house.db, second)).filter((item) => item.alreadyFiled);
    expect(marked.map((item) => item.alreadyFiled!.confirmed)).toEqual([true, true]);
    await fileNow(test.house, second);
    expect((await copiesOf(test.house.db, second)).map(({ from }) => from)).toEqual(['3.JPG']);
  });

  it('the same ends with another middle are not the same file', async () => {
    const bytes = noise(300_000, 57);
    const card = newCard();
    await put(join(card, '1.JPG'), bytes);
    const first = await bring(test, card);
    await fileNow(test.house, first);
    const changed = Buffer.from(bytes);
    changed[150_000]! ^= 1;
    const other = newCard('OTHER');
    await put(join(other, '1.JPG'), changed, new Date('2026-04-18T12:00:00Z'));
    const second = await bring(test, other);
    expect((await itemsOf(test.house.db, second))[0]!.alreadyFiled).toBeNull();
  });

  it('a slip cannot be changed once it is filed by it', async () => {
    const id = await bring(test, await makeCard(newCard(), { '1.JPG': 41 }, 58));
    await fileNow(test.house, id);
    await expect(changeSlip(test.house, id, { contributorId: null }, 'test')).rejects.toThrow('stand');
    await giveBack(test.house, id, 'test');
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'closed', tray: 'out' });
  });
});

describe('when others file too', () => {
  it('a plan that changed is shown before anything happens', async () => {
    const [a, b] = [await makeCard(newCard(), { '1.JPG': 51 }, 59), await makeCard(newCard(), { '1.JPG': 52 }, 60)];
    const [mine, theirs] = [await bring(test, a), await bring(test, b)];
    const shown = await planned(mine);
    await fileNow(test.house, theirs);
    const answer = await beginFiling(test.house, mine, shown.seal, 'test');
    if (answer.outcome !== 'changed') throw new Error('it was filed all the same');
    expect(answer.plan.placements[0]!.n).toBe(shown.placements[0]!.n! + 1);
    expect((await theIntake(test.house, mine)).state).toBe('open');
    await expect(beginFiling(test.house, mine, answer.plan.seal, 'test')).resolves.toMatchObject({ outcome: 'begun' });
  });

  it('a stranger’s file under a planned name, in whatever case, is seen in the plan', async () => {
    const id = await bring(test, await makeCard(newCard(), { '1.JPG': 53 }, 61));
    const [wanted] = (await planned(id)).placements;
    const stranger = join(test.second, wanted!.folder, wanted!.name.toUpperCase());
    await put(stranger, 'precious');
    const now = await planned(id);
    expect(now.clashes).toMatchObject([{ wanted: wanted!.name, with: 'the drive' }]);
    await fileNow(test.house, id);
    expect(await readFile(stranger, 'utf8')).toBe('precious');
    expect((await theIntake(test.house, id)).state).toBe('tallied');
    await rm(stranger);
  });

  it('a stranger’s file that came after the plan is not overwritten either: the item moves aside, in the open', async () => {
    const id = await bring(test, await makeCard(newCard(), { '1.JPG': 54 }, 62));
    const { view } = await planOf(test.house, id);
    await beginFiling(test.house, id, view.seal, 'test');
    const [wanted] = view.placements;
    await put(join(test.shared, wanted!.folder, wanted!.name), 'precious');
    await carryOut(test.house, id, never);
    expect(await readFile(join(test.shared, wanted!.folder, wanted!.name), 'utf8')).toBe('precious');
    const [copy] = await copiesOf(test.house.db, id);
    expect(copy!.to).toBe(`${wanted!.folder}/${wanted!.name.replace('.jpg', '-2.jpg')}`);
    expect(await said(id)).toContain('was taken on Shared drive by another file');
    expect((await theIntake(test.house, id)).state).toBe('tallied');
  });

  it('four cards into one folder at once: names of their own, no gaps', async () => {
    const slug = 'four-at-once';
    const assignmentId = (
      await test.house.db.query<{ id: number }[]>(
        `insert into assignment (slug, title, from_day, to_day, place, expected_cards) values ($1, $1, '2026-04-18', '2026-04-18', '', 0) returning id`,
        [slug],
      )
    )[0]!.id;
    const cards = await Promise.all(
      [70, 71, 72, 73].map((seed) =>
        makeCard(newCard(), Object.fromEntries(Array.from({ length: 25 }, (_, i) => [`${i}.JPG`, 1000 + i])), seed),
      ),
    );
    const ids: number[] = [];
    for (const card of cards) ids.push(await bring(test, card, { ...test.slip, assignmentId }));
    await Promise.all(
      ids.map(async (id) => {
        let seal = (await planned(id)).seal;
        for (;;) {
          const answer = await beginFiling(test.house, id, seal, 'test');
          if (answer.outcome === 'begun') break;
          seal = answer.plan.seal;
        }
        await carryOut(test.house, id, never);
      }),
    );
    const folder = join(test.shared, '2026/2026-04/2026-04-18_four-at-once');
    const names = (await readdir(folder)).filter((name) => name.endsWith('.jpg')).sort();
    expect(names).toEqual(Array.from({ length: 100 }, (_, i) => `20260418_IB_${String(i + 1).padStart(4, '0')}.jpg`));
    for (const [index, id] of ids.entries()) await proveByCmp(id, cards[index]!);
  });
});

describe('when something is away or breaks', () => {
  const away = () => `${test.second}-away`;
  beforeEach(() => undefined);
  afterEach(async () => {
    await rename(away(), test.second).catch(() => undefined);
  });

  it('the second copy is away: the shared drive tallies, the intake says what is missing, and catches up', async () => {
    const card = await makeCard(newCard(), { '1.JPG': 61, '2.JPG': 62 }, 80);
    const id = await bring(test, card);
    await rename(test.second, away());
    expect((await planned(id)).obstacles).toEqual([expect.stringContaining('Second copy') as unknown as string]);
    await fileNow(test.house, id);
    const intake = await theIntake(test.house, id);
    expect(intake).toMatchObject({ state: 'needs attention', filed: 0 });
    expect(intake.note).toContain('is not there');
    const states = (await copiesOf(test.house.db, id)).map(({ copies }) => copies.map((copy) => copy.state));
    expect(states).toEqual([
      ['tallied', 'waiting'],
      ['tallied', 'waiting'],
    ]);
    await rename(away(), test.second);
    await tryAgain(test.house, id, 'test');
    await carryOut(test.house, id, never);
    expect((await theIntake(test.house, id)).state).toBe('tallied');
    await proveByCmp(id, card);
  });

  it('the shared drive is away: nothing begins', async () => {
    const id = await bring(test, await makeCard(newCard(), { '1.JPG': 63 }, 81));
    const { view } = await planOf(test.house, id);
    await rename(test.shared, `${test.shared}-away`);
    try {
      await expect(beginFiling(test.house, id, view.seal, 'test')).rejects.toThrow(/Shared drive: .* is not there/);
    } finally {
      await rename(`${test.shared}-away`, test.shared);
    }
    expect((await theIntake(test.house, id)).state).toBe('open');
  });

  it('the card is pulled before the copy: nothing is lost, and it goes on when it is back', async () => {
    const card = await makeCard(newCard('PULLED'), { '1.JPG': 64, '2.JPG': 65 }, 82);
    const id = await bring(test, card);
    const { view } = await planOf(test.house, id);
    await beginFiling(test.house, id, view.seal, 'test');
    await rename(card, `${card}-pulled`);
    await cardVanished(test.house, card);
    await carryOut(test.house, id, never);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'needs attention', present: false });
    expect((await theIntake(test.house, id)).note).toContain('Put it back');
    await rename(`${card}-pulled`, card);
    expect(await receiveCard(test.house, card, 'test')).toBe(id);
    expect((await theIntake(test.house, id)).state).toBe('filing');
    await carryOut(test.house, id, never);
    await proveByCmp(id, card);
  });

  it('one file that is gone or changed is named; the others are filed', async () => {
    const card = await makeCard(newCard(), { '1.JPG': 66, '2.JPG': 67, '3.JPG': 68 }, 83);
    const id = await bring(test, card);
    await unlink(join(card, '2.JPG'));
    await writeFile(join(card, '3.JPG'), noise(99, 1));
    await fileNow(test.house, id);
    const intake = await theIntake(test.house, id);
    expect(intake.state).toBe('needs attention');
    expect(intake.note).toMatch(/2\.JPG: cannot be read \(ENOENT\)/);
    expect(intake.note).toMatch(/3\.JPG: changed while it was read/);
    expect((await copiesOf(test.house.db, id)).map(({ from, copies }) => [from, copies[0]!.state])).toEqual([
      ['1.JPG', 'tallied'],
      ['2.JPG', 'unreadable'],
      ['3.JPG', 'unreadable'],
    ]);
    expect(treeOf(test.shared).filter((path) => path.includes('.part'))).toEqual([]);
  });

  it('a stop in the middle leaves no half file, and the next run ends in the same state', async () => {
    const card = await makeCard(newCard(), Object.fromEntries(Array.from({ length: 30 }, (_, i) => [`${i}.JPG`, 3_000_000])), 84);
    const id = await bring(test, card);
    const { view } = await planOf(test.house, id);
    await beginFiling(test.house, id, view.seal, 'test');
    const stop = new AbortController();
    setTimeout(() => stop.abort(), 60);
    await expect(carryOut(test.house, id, stop.signal)).rejects.toThrow('abort');
    expect((await theIntake(test.house, id)).state).toBe('filing');
    for (const place of [test.shared, test.second]) expect(treeOf(place).filter((path) => path.includes('.part'))).toEqual([]);
    await carryOut(test.house, id, never);
    expect((await theIntake(test.house, id)).state).toBe('tallied');
    await proveByCmp(id, card);
  });

  it('a file that differs in a place when it is looked at again is not called whole', async () => {
    const card = await makeCard(newCard(), { '1.JPG': 69 }, 85);
    const id = await bring(test, card);
    await rename(test.second, away());
    await fileNow(test.house, id);
    await rename(away(), test.second);
    const [copy] = await copiesOf(test.house.db, id);
    await put(join(test.second, copy!.to), 'somebody else’s');
    await tryAgain(test.house, id, 'test');
    await carryOut(test.house, id, never);
    expect((await theIntake(test.house, id)).state).toBe('needs attention');
    expect((await copiesOf(test.house.db, id))[0]!.copies).toMatchObject([{ state: 'tallied' }, { state: 'differs' }]);
    expect(await readFile(join(test.second, copy!.to), 'utf8')).toBe('somebody else’s');
  });
});

describe('the desk', () => {
  it('shows cards in their trays, and expected against received', async () => {
    const id = await bring(test, await makeCard(newCard('SHOWN'), { '1.JPG': 71 }, 90));
    const desk = await deskNow(test.house);
    expect(desk.onTheDesk.map((intake) => intake.id)).toContain(id);
    expect(desk.places.map((place) => [place.id, place.online])).toEqual([
      ['shared', true],
      ['second', true],
    ]);
    const assignment = (await everyAssignment(test)).find((one) => one.slug === 'reed-planting')!;
    expect(assignment.receivedCards).toBeGreaterThan(5);
    expect(assignment.expected).toEqual([{ id: test.slip.contributorId, name: 'Ines Barrow', handedIn: true }]);
  });
});
