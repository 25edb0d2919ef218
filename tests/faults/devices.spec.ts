import { afterAll, afterEach, beforeAll, describe, expect, it } from '@jest/globals';
import { readdir, readFile, rename, rm, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { makeCard } from '../../server/src/testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse, putBack } from '../../server/src/testing/house.js';
import { compareAll } from '../../server/src/testing/tools.js';
import { type Fault, flakyFiles } from '../../standins/src/flaky-files.js';
import { carryOut, copiesOf, tryAgain } from '../../server/src/filing/index.js';
import { theIntake } from '../../server/src/house/index.js';
import { itemsOf } from '../../server/src/seeing/index.js';

/*
 * Devices that fail on purpose, one fault at a time. Whatever they do: nothing that differs is said to tally, nothing
 * half bears a final name, and once the device behaves the end state is that of an undisturbed filing.
 */
let test: TestHouse;
let faults: readonly Fault[] = [];
let cards = 0;
beforeAll(async () => {
  test = await openHouse({}, [], {
    open: (path, flags, mode) => flakyFiles(faults).open(path, flags, mode),
  });
});
afterEach(() => {
  faults = [];
});
afterAll(() => test.end());

const SIZES = { '1.JPG': 5_000_000, '2.JPG': 300_000, '3.JPG': 9_000_001 };
const card = () => join(test.folder, `CARD${cards}`);
async function brought(): Promise<number> {
  cards++;
  await makeCard(
    card(),
    Object.fromEntries(Object.entries(SIZES).map(([name, bytes]) => [`A/${name}`, bytes + cards])),
    cards * 100,
  );
  return bring(test, card());
}
const copies = (id: number) => copiesOf(test.house.db, id);
const statesAt = async (id: number, place: string) =>
  Object.fromEntries(
    (await copies(id)).map(({ from, copies: at }) => [from.slice(2), at.find((copy) => copy.place === place)!.state]),
  );
const ALL_TALLY = { '1.JPG': 'tallied', '2.JPG': 'tallied', '3.JPG': 'tallied' };

/** Every file under a final name is, byte for byte, the one on the card it is said to be; nothing temporary is left. */
async function expectNothingFalse(id: number): Promise<void> {
  const at = { shared: test.shared, second: test.second };
  for (const { from, to, copies: made } of await copies(id)) {
    for (const [place, root] of Object.entries(at)) {
      const stands = await readFile(join(root, to)).catch(() => null);
      const tallied = made.find((copy) => copy.place === place)?.state === 'tallied';
      if (stands) expect(stands.equals(await readFile(join(card(), from)))).toBe(true);
      expect(tallied && !stands).toBe(false);
    }
  }
  for (const root of Object.values(at)) {
    const names = await readdir(root, { recursive: true }).catch(() => []);
    expect(names.filter((name) => name.endsWith('.part'))).toEqual([]);
  }
}

async function expectEndState(id: number): Promise<void> {
  faults = [];
  if ((await theIntake(test.house, id)).state === 'needs attention') {
    await tryAgain(test.house, id, 'test');
    await carryOut(test.house, id, never);
  }
  expect(await theIntake(test.house, id)).toMatchObject({ state: 'tallied', filed: 3 });
  expect(await theIntake(test.house, id)).toMatchObject({ note: null });
  for (const { from, to } of await copies(id))
    compareAll([test.shared, test.second].map((root) => [join(card(), from), join(root, to)]));
}

describe('a card that fails', () => {
  it('a bad place that small reads get past: nothing is lost, and nobody need be told', async () => {
    const id = await brought();
    faults = [{ path: 'A/3.JPG', unreadableAt: 4_500_000, unlessSmallerThan: 64 << 10 }];
    await fileNow(test.house, id);
    await expectEndState(id);
  });

  it.each([0, 4096, 4_999_999, 8_999_999])(
    'a byte that cannot be read (%i): that item is named with the place, the others tally',
    async (byte) => {
      const id = await brought();
      faults = [{ path: 'A/3.JPG', unreadableAt: byte }];
      await fileNow(test.house, id);
      expect(await statesAt(id, 'shared')).toEqual({ ...ALL_TALLY, '3.JPG': 'unreadable' });
      const intake = await theIntake(test.house, id);
      expect(intake.state).toBe('needs attention');
      expect(intake.note).toMatch(
        byte < 4096 ? /A\/3\.JPG: cannot be read \(EIO\)/ : /A\/3\.JPG: cannot be read at byte \d+ \(EIO\)/,
      );
      await expectNothingFalse(id);
      await expectEndState(id);
    },
  );

  it.each([100_000, 4_200_000])('pulled at byte %i: it waits, and goes on when it is back', async (byte) => {
    const id = await brought();
    const pocket = `${card()}-in-a-pocket`;
    faults = [{ path: 'A/1.JPG', vanishesAt: { byte, root: card(), to: pocket } }];
    await fileNow(test.house, id);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'needs attention', present: false });
    expect(Object.values(await statesAt(id, 'shared'))).not.toContain('unreadable');
    await rename(pocket, card());
    await putBack(test.house, id);
    await expectNothingFalse(id);
    await expectEndState(id);
  });

  it('back with other bytes in a file that was not filed yet, size and time the same: named, not filed', async () => {
    const id = await brought();
    const pocket = `${card()}-in-a-pocket`;
    faults = [{ path: 'A/1.JPG', vanishesAt: { byte: 1_000_000, root: card(), to: pocket } }];
    await fileNow(test.house, id);
    await rename(pocket, card());
    faults = [];
    const [item] = (await itemsOf(test.house.db, id)).filter(({ path }) => path === 'A/1.JPG');
    const bytes = await readFile(join(card(), 'A/1.JPG'));
    bytes[17]! ^= 1;
    await writeFile(join(card(), 'A/1.JPG'), bytes);
    await utimes(join(card(), 'A/1.JPG'), item!.modifiedAt, item!.modifiedAt);
    await putBack(test.house, id);
    await tryAgain(test.house, id, 'test');
    await carryOut(test.house, id, never);
    expect((await statesAt(id, 'shared'))['1.JPG']).toBe('unreadable');
    expect((await theIntake(test.house, id)).note).toContain('is not what was read when the card came');
  });
});

describe('a place that fails', () => {
  it.each([
    ['ENOSPC', 0, 'is full'],
    ['ENOSPC', 4_500_000, 'is full'],
    ['EROFS', 0, 'it is read-only'],
    ['EIO', 8_999_000, 'reports a fault of its device'],
    ['EDQUOT', 100_000, 'has used up its quota'],
  ])('%s at byte %i: the other place is filed, the word is %j', async (code, byte, word) => {
    const id = await brought();
    faults = [{ path: test.second, writeFails: { byte, code } }];
    await fileNow(test.house, id);
    expect(await statesAt(id, 'shared')).toEqual(ALL_TALLY);
    expect((await theIntake(test.house, id)).note).toContain(`Second copy: `);
    expect((await theIntake(test.house, id)).note).toContain(word);
    await expectNothingFalse(id);
    await expectEndState(id);
  });

  it.each([0, 4_194_303, 4_194_304, 8_999_999])(
    'one bit flipped after writing (byte %i): differs, never tallied',
    async (byte) => {
      const id = await brought();
      faults = [{ path: test.second, flipsBitAt: byte }];
      await fileNow(test.house, id);
      const states = await statesAt(id, 'second');
      expect(states['3.JPG']).toBe('differs');
      if (byte >= SIZES['1.JPG']) expect(states['1.JPG']).toBe('tallied');
      expect(await statesAt(id, 'shared')).toEqual(ALL_TALLY);
      await expectNothingFalse(id);
      await expectEndState(id);
    },
  );

  it.each([0, 4096, 8_999_000])('the last writes lost after the flush (from byte %i): differs, never tallied', async (byte) => {
    const id = await brought();
    faults = [{ path: test.second, losesFrom: byte }];
    await fileNow(test.house, id);
    expect((await statesAt(id, 'second'))['3.JPG']).toBe('differs');
    await expectNothingFalse(id);
    await expectEndState(id);
  });

  it('one that is slow keeps nobody from the end', async () => {
    const id = await brought();
    faults = [{ path: test.second, slowByMs: 40 }];
    await fileNow(test.house, id);
    await expectEndState(id);
  });

  it('one that goes in the middle and comes back', async () => {
    const id = await brought();
    faults = [{ path: test.second, vanishesAt: { byte: 0, root: test.second, to: `${test.second}-away` } }];
    await fileNow(test.house, id);
    expect((await theIntake(test.house, id)).state).toBe('needs attention');
    await rm(test.second, { recursive: true, force: true });
    await rename(`${test.second}-away`, test.second);
    await expectEndState(id);
    await expectNothingFalse(id);
  });
});

describe('a stranger', () => {
  it.each([
    ['the very name', (name: string) => name],
    ['another case', (name: string) => name.toUpperCase()],
  ])('takes %s between plan and final name: nothing is overwritten, the item gets the next suffix', async (_what, spelt) => {
    const id = await brought();
    const taken: string[] = [];
    faults = [
      {
        path: 'A/1.JPG',
        onRead: async () => {
          if (taken.length) return;
          const { to } = (await copies(id)).find(({ from }) => from === 'A/1.JPG')!;
          const folder = to.slice(0, to.lastIndexOf('/'));
          taken.push(join(test.shared, folder, spelt(to.slice(to.lastIndexOf('/') + 1))));
          await writeFile(taken[0]!, 'a stranger');
        },
      },
    ];
    await fileNow(test.house, id);
    expect(await readFile(taken[0]!, 'utf8')).toBe('a stranger');
    await expectEndState(id);
    expect(await readFile(taken[0]!, 'utf8')).toBe('a stranger');
  });
});
