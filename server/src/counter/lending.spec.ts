import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { join } from 'node:path';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, NOW, openHouse, type TestHouse } from '../testing/house.js';
import { lend, lendingList, loanHistory, makeThing, takeBack } from './lending.js';
import { deskNow } from './overview.js';
import { giveBack, moveCard, scanLabel } from './trays.js';
import { cardVanished, readIntake, receiveCard } from '../arriving/index.js';
import { makeContributor } from '../people/index.js';
import { changeSlip } from '../slip/index.js';
import { theIntake } from '../house/index.js';

let test: TestHouse;
let other: number;
beforeAll(async () => {
  test = await openHouse({ takeAtFirst: 'all new' });
  other = await makeContributor(test.house, { name: 'Mateo Sorrel', code: 'MS' }, 'test');
});
afterAll(() => test.end());

const HOUR = 3_600_000;
const at = (hours: number) => (test.clock.now = new Date(NOW.getTime() + hours * HOUR));
const card = (name: string, files: Record<string, number>) => makeCard(join(test.folder, name), files);
const scan = (label: string, move = true) => scanLabel(test.house, label, move, 'wren');
const standing = async (label: string) => (await lendingList(test.house)).things.find((thing) => thing.label === label)!;

describe('a house card from lending to lending', () => {
  it('is lent, comes back by a scan, is told by its label though it was formatted, and leaves *in* only when it tallies', async () => {
    at(0);
    const key = await makeThing(test.house, { kind: 'card', label: 'C-031', name: '' }, 'wren');
    await lend(test.house, { things: [key], contributorId: test.slip.contributorId, due: '2026-04-22', note: '' }, 'wren');
    expect(await standing('C-031')).toMatchObject({
      tray: 'out',
      loan: { to: { code: 'IB' }, standing: 'out', due: '2026-04-22' },
    });
    at(48);
    expect(await standing('C-031')).toMatchObject({ loan: { standing: 'overdue', daysLate: 1 } });
    expect((await deskNow(test.house)).out).toMatchObject([{ label: 'C-031', loan: { standing: 'overdue' } }]);

    // Handed in at the counter; the reader is busy.
    expect(await scan('c-031')).toMatchObject({ what: 'moved', from: 'out', to: 'in', says: 'C-031 is handed in.' });
    expect(await scan('C-031')).toMatchObject({ what: 'waits' });
    at(73);
    expect((await deskNow(test.house)).handedIn).toMatchObject([{ label: 'C-031', days: 1, from: { code: 'IB' } }]);
    await expect(moveCard(test.house, key.id, 'out', 'wren')).rejects.toThrow('C-031 stays where it is.');
    await expect(moveCard(test.house, key.id, 'to give back', 'wren')).rejects.toThrow('leaves this tray through the desk');
    await expect(moveCard(test.house, key.id, 'on the desk', 'wren')).rejects.toThrow('put it into a reader');
    await expect(lend(test.house, { things: [key], contributorId: other, due: null, note: '' }, 'wren')).rejects.toThrow(
      'C-031 cannot be lent. It goes to “to give back” first',
    );

    // Nothing on it tells which card it is: the label does.
    const intake = await receiveCard(test.house, await card('FORMATTED', { '1.JPG': 3001, '2.JPG': 3002 }), 'test');
    await readIntake(test.house, intake, new AbortController().signal);
    await changeSlip(test.house, intake, { cardLabel: 'C-031' }, 'wren');
    expect((await theIntake(test.house, intake)).card).toMatchObject({ id: key.id, label: 'C-031' });
    const desk = await deskNow(test.house);
    expect(desk.handedIn).toEqual([]);
    expect(desk.onTheDesk.map(({ id }) => id)).toEqual([intake]);

    await expect(giveBack(test.house, intake, 'wren')).rejects.toThrow('2 taken and not filed');
    await changeSlip(test.house, intake, test.slip, 'wren');
    await fileNow(test.house, intake);
    expect((await theIntake(test.house, intake)).tray).toBe('to give back');
    expect(await scan('C-031')).toMatchObject({ what: 'moved', to: 'out', says: 'C-031 is given back.' });
    expect((await theIntake(test.house, intake)).state).toBe('closed');

    await lend(test.house, { things: [key], contributorId: other, due: null, note: 'heron count' }, 'wren');
    expect(await standing('C-031')).toMatchObject({ loan: { to: { code: 'MS' }, standing: 'out' }, times: 1 });
    expect(await loanHistory(test.house, key)).toMatchObject([{ to: 'Mateo Sorrel', back: null }, { to: 'Ines Barrow' }]);
  });

  it('read without a word, it is back, and whoever had it handed it in', async () => {
    at(80);
    const files = await card('KNOWN', { '1.JPG': 3101, '2.JPG': 3102 });
    const first = await bring(test, files);
    await changeSlip(test.house, first, { cardLabel: 'C-032' }, 'wren');
    await fileNow(test.house, first);
    const { card: known } = await theIntake(test.house, first);
    await cardVanished(test.house, files);
    await lend(test.house, { things: [{ kind: 'card', id: known.id }], contributorId: other, due: null, note: '' }, 'wren');
    await card('KNOWN', { '3.JPG': 3103 });
    const second = await receiveCard(test.house, files, 'test');
    expect(await theIntake(test.house, second)).toMatchObject({
      tray: 'in',
      contributor: { code: 'MS' },
      card: { label: 'C-032' },
    });
    expect((await standing('C-032')).loan).toBeNull();
    await expect(
      lend(test.house, { things: [{ kind: 'card', id: known.id }], contributorId: other, due: null, note: '' }, 'wren'),
    ).rejects.toThrow();
  });

  it('handed in by hand and read, with nothing new on it, is done', async () => {
    at(90);
    const files = await card('NOTHING_NEW', { '1.JPG': 3201 });
    const first = await bring(test, files);
    await changeSlip(test.house, first, { cardLabel: 'C-033' }, 'wren');
    await fileNow(test.house, first);
    await cardVanished(test.house, files);
    await giveBack(test.house, first, 'wren');
    at(100);
    expect(await scan('C-033')).toMatchObject({ to: 'in' });
    expect((await deskNow(test.house)).handedIn).toMatchObject([{ label: 'C-033', from: null }]);
    expect(await receiveCard(test.house, files, 'test')).toBe(first);
    expect((await theIntake(test.house, first)).tray).toBe('to give back');
    expect((await deskNow(test.house)).handedIn).toEqual([]);
  });
});

describe('a label means one thing', () => {
  it('a card that is being worked on keeps its label; another thing too', async () => {
    at(110);
    const busy = await bring(test, await card('BUSY', { '1.JPG': 3301 }));
    await changeSlip(test.house, busy, { cardLabel: 'C-040' }, 'wren');
    const second = await bring(test, await card('SECOND', { '1.JPG': 3302 }));
    await expect(changeSlip(test.house, second, { cardLabel: 'C-040' }, 'wren')).rejects.toThrow(
      'Another card carries the label C-040',
    );
    await makeThing(test.house, { kind: 'reader', label: 'R-1', name: 'Two-slot reader' }, 'wren');
    await expect(changeSlip(test.house, second, { cardLabel: 'r-1' }, 'wren')).rejects.toThrow('something else that is lent');
    await expect(makeThing(test.house, { kind: 'cable', label: 'R-1', name: '' }, 'wren')).rejects.toThrow('already');
    await expect(makeThing(test.house, { kind: 'card', label: 'c-040', name: '' }, 'wren')).rejects.toThrow('already');
    expect((await theIntake(test.house, second)).card.label).toBeNull();
  });

  it('two stations that add the same label at once: one does', async () => {
    const thing = { kind: 'cable', label: 'K-7', name: '' } as const;
    const made = await Promise.allSettled([1, 2, 3, 4].map(() => makeThing(test.house, thing, 'wren')));
    expect(made.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
  });
});

it('two stations that say one label at once: one card has it, and neither station fails for no reason', async () => {
  at(115);
  const cards = await Promise.all([3401, 3402].map(async (bytes) => bring(test, await card(`RACE${bytes}`, { '1.JPG': bytes }))));
  const said = await Promise.allSettled(cards.map((id) => changeSlip(test.house, id, { cardLabel: 'C-060' }, 'wren')));
  const refused = said.flatMap((one) => (one.status === 'rejected' ? [(one.reason as Error).message] : []));
  expect(refused).toEqual(['Another card carries the label C-060.']);
});

describe('readers, cables and cameras', () => {
  it('are lent together or not at all, and one of them at a time', async () => {
    at(120);
    const camera = await makeThing(test.house, { kind: 'camera', label: 'K-1', name: 'Halden M4' }, 'wren');
    const cable = await makeThing(test.house, { kind: 'cable', label: 'K-2', name: '' }, 'wren');
    const ask = { contributorId: other, due: null, note: '' };
    await lend(test.house, { ...ask, things: [cable] }, 'wren');
    await expect(lend(test.house, { ...ask, things: [camera, cable] }, 'wren')).rejects.toThrow('K-2 is lent already.');
    expect((await standing('K-1')).loan).toBeNull();
    await expect(lend(test.house, { ...ask, things: [camera], due: '2026-04-01' }, 'wren')).rejects.toThrow('is over');
    await expect(lend(test.house, { ...ask, things: [{ kind: 'reader', id: camera.id }] }, 'wren')).rejects.toThrow(
      'no such reader',
    );
    const both = await Promise.allSettled([1, 2, 3].map(() => lend(test.house, { ...ask, things: [camera] }, 'wren')));
    expect(both.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
    await takeBack(test.house, [camera], false, 'wren');
    await expect(takeBack(test.house, [camera], false, 'wren')).rejects.toThrow('K-1 is not lent.');
    expect(await scan('K-2')).toMatchObject({ what: 'back', says: 'K-2 is back from Mateo Sorrel.' });
    expect(await scan('K-2')).toMatchObject({ what: 'thing', says: 'K-2 is a cable of the house, and here.' });
    expect(await scan('X-99')).toMatchObject({ what: 'unknown', says: 'No card has the label X-99 yet.' });
  });
});

it('a card comes back unused, or is handed in', async () => {
  const key = await makeThing(test.house, { kind: 'card', label: 'C-051', name: '' }, 'wren');
  const loan = { things: [key], contributorId: other, due: null, note: '' };
  await lend(test.house, loan, 'wren');
  await takeBack(test.house, [key], true, 'wren');
  expect(await standing('C-051')).toMatchObject({ tray: 'out', loan: null });
  await lend(test.house, loan, 'wren');
  await takeBack(test.house, [key], false, 'wren');
  expect(await standing('C-051')).toMatchObject({ tray: 'in', loan: null });
  expect((await deskNow(test.house)).handedIn).toMatchObject([{ label: 'C-051', from: { code: 'MS' } }]);
});

it('two people move one card at once: it goes once', async () => {
  const key = await makeThing(test.house, { kind: 'card', label: 'C-050', name: '' }, 'wren');
  await Promise.all([1, 2, 3, 4].map(() => moveCard(test.house, key.id, 'in', 'wren')));
  const events: unknown[] = await test.house.db.query(`select 1 from event where kind = 'handed in' and text like 'Card C-050%'`);
  expect(events).toHaveLength(1);
});
