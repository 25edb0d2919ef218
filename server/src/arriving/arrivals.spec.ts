import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { writeTakenOut } from '../testing/inside.js';
import { execFileSync } from 'node:child_process';
import { appendFile, copyFile, mkdir, rename, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { realPictures } from '../testing/cards.js';
import { openHouse, until, workerOf, type TestHouse } from '../testing/house.js';
import type { Worker } from '../work/worker.js';
import { changeSlip } from '../slip/index.js';
import { intakesWhere, theIntake } from '../house/index.js';
import { itemsOf } from '../seeing/index.js';
import { copiesOf } from '../filing/index.js';

let test: TestHouse;
let worker: Worker;
let pictures: string;
let tethered: string;

beforeAll(async () => {
  const outside = await openHouse();
  const folder = outside.folder;
  await outside.end();
  tethered = join(folder, 'tethered');
  const phone = join(folder, 'phone');
  await mkdir(tethered, { recursive: true });
  await mkdir(phone, { recursive: true });
  test = await openHouse({
    watched: [
      { folder: tethered, fileByItself: false, contributor: 'IB' },
      { folder: phone, fileByItself: true, contributor: 'IB', assignment: 'reed-planting' },
    ],
  });
  pictures = join(test.folder, 'pictures');
  await realPictures(pictures, 6, 'jhead/normal-digicams');
  worker = workerOf(test);
  await worker.start();
});
afterAll(async () => {
  await worker.stop();
  await test.end();
});

const picture = (n: number): string => {
  const names = execFileSync('find', [pictures, '-name', '*.jpg'], { encoding: 'utf8' }).trim().split('\n').sort();
  return names[n]!;
};
const intakeOf = async (folder: string) =>
  (await intakesWhere(test.house.db, 'i.source_path = $1 order by i.id desc limit 1', [folder]))[0];

describe('a watched folder', () => {
  it('each whole file appears by itself; a half-written one is waited for', async () => {
    await copyFile(picture(0), join(tethered, 'T0001.JPG'));
    const intake = await until(() => intakeOf(tethered));
    expect(intake.contributor?.code).toBe('IB');

    // A camera that writes slowly: three pieces, half a second apart.
    const slow = join(tethered, 'T0002.JPG');
    for (let piece = 0; piece < 3; piece++) {
      await appendFile(slow, Buffer.alloc(1000, piece));
      await sleep(500);
      expect((await itemsOf(test.house.db, intake.id)).map((item) => item.path)).toEqual(['T0001.JPG']);
    }
    const items = await until(async () => {
      const all = await itemsOf(test.house.db, intake.id);
      return all.length === 2 && all.every((item) => item.read) && all;
    });
    expect(items.find((item) => item.path === 'T0002.JPG')!.bytes).toBe((await stat(slow)).size);
    expect((await theIntake(test.house, intake.id)).state).toBe('open');
  });

  it('files each arrival by itself where the house said so, into one intake', async () => {
    const phone = test.settings.watched[1]!.folder;
    await copyFile(picture(1), join(phone, 'P1.JPG'));
    const tallied = (n: number) =>
      until(async () => {
        const intake = await intakeOf(phone);
        const copies = intake ? await copiesOf(test.house.db, intake.id) : [];
        const whole = copies.length === n && copies.every((one) => one.copies.every(({ state }) => state === 'tallied'));
        return whole && (await theIntake(test.house, intake!.id)).state === 'tallied' && intake;
      });
    const first = await tallied(1);
    await copyFile(picture(2), join(phone, 'P2.JPG'));
    const second = await tallied(2);
    expect(second.id).toBe(first.id);
    const out = join(test.folder, 'taken-out');
    for (const { from, to } of await copiesOf(test.house.db, second.id)) {
      await writeTakenOut(test.house, join(test.shared, to), out);
      execFileSync('cmp', [join(phone, from), out]);
    }
  });
});

describe('what is to happen by itself when a card is put in', () => {
  it('take and file everything new: the assignment of that day is proposed, and what cannot be answered waits', async () => {
    const bring = async (n: number) => {
      const making = join(test.folder, 'making', 'HALDEN');
      await mkdir(join(making, 'DCIM'), { recursive: true });
      await copyFile(picture(n), join(making, 'DCIM', `H${n}.JPG`));
      await rename(making, join(test.folder, 'reader', `HALDEN${n}`));
      return until(
        async () => (await intakesWhere(test.house.db, `k.volume = $1 and (i.totals->>'read')::int = 1`, [`HALDEN${n}`]))[0],
      );
    };
    const first = await bring(3);
    await changeSlip(test.house, first.id, { ...test.slip, onInsert: 'file all new' }, 'test');
    expect((await theIntake(test.house, first.id)).card.onInsert).toBe('file all new');
    expect((await theIntake(test.house, first.id)).state).toBe('open');
    // Out and in again: the slip is complete, so it files itself.
    await rename(join(test.folder, 'reader', 'HALDEN3'), join(test.folder, 'making', 'AWAY'));
    await until(async () => !(await theIntake(test.house, first.id)).present);
    await rename(join(test.folder, 'making', 'AWAY'), join(test.folder, 'reader', 'HALDEN3'));
    await until(async () => (await theIntake(test.house, first.id)).state === 'tallied');
  });
});
