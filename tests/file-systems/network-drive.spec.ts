import { afterEach, beforeEach, expect, it } from '@jest/globals';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { systemFiles } from '../../server/src/drive/files.js';
import { placeViews } from '../../server/src/driving/index.js';
import { copiesOf } from '../../server/src/filing/index.js';
import { theIntake } from '../../server/src/house/index.js';
import { makeCard } from '../../server/src/testing/cards.js';
import { bring, fileNow, openHouse, type TestHouse, until, workerOf } from '../../server/src/testing/house.js';
import { NetworkDrive, whyNoNetworkDrive } from '../support/network-drive.js';
import { wherePossible } from '../support/where-possible.js';

/*
 * A shared drive that is a network drive: a real SFTP server behind sshfs, whose line is cut, comes back, or hangs.
 * Files are compared on the server's side.
 */

const suite = wherePossible(whyNoNetworkDrive());
const SHOTS = 8;
const BYTES = 300_000;

let folder: string;
let drive: NetworkDrive;
let test: TestHouse;
/** What happens when the so-manieth temporary file is begun. */
let onBegin: { at: number; run: () => Promise<void> } | null = null;

suite('a shared drive over a network', () => {
  beforeEach(async () => {
    folder = mkdtempSync(join(tmpdir(), 'tally-network-'));
    drive = await NetworkDrive.make(folder);
    let begun = 0;
    onBegin = null;
    test = await openHouse(
      { places: [{ id: 'shared', name: 'Shared drive', kind: 'shared drive', root: join(drive.at, 'pictures') }] },
      [],
      {
        open: async (...given) => {
          const hand = onBegin;
          if (hand && given[0].toString().endsWith('.part') && ++begun === hand.at) {
            onBegin = null;
            await hand.run();
          }
          return systemFiles.open(...given);
        },
      },
    );
  });
  afterEach(async () => {
    await drive.is('up');
    await test.end();
    await drive.end();
    rmSync(folder, { recursive: true, force: true });
  });

  async function brought(): Promise<number> {
    const shots = Object.fromEntries(Array.from({ length: SHOTS }, (_, n) => [`DCIM/${n}.JPG`, BYTES + n]));
    return bring(test, await makeCard(join(test.folder, 'CARD'), shots, 40));
  }

  /** Every picture stands on the server with its bytes, and nothing half made. */
  async function expectWhole(id: number): Promise<void> {
    const served = join(drive.served, 'pictures');
    for (const { from, to } of await copiesOf(test.house.db, id))
      expect(readFileSync(join(served, to)).equals(readFileSync(join(test.folder, 'CARD', from)))).toBe(true);
    const names = readdirSync(served, { recursive: true }).map(String);
    expect(names.filter((name) => name.endsWith('.jpg'))).toHaveLength(SHOTS);
    expect(names.filter((name) => name.endsWith('.part'))).toEqual([]);
  }

  it('is filed to, and every copy is proven', async () => {
    const id = await brought();
    await fileNow(test.house, id);
    expect((await theIntake(test.house, id)).state).toBe('tallied');
    await expectWhole(id);
    // What such a proof can say, and what it cannot, stands on the receipt.
    const how = await test.house.db.query<{ proof: string }[]>('select distinct proof from copy where place_id = $1', ['shared']);
    expect(how).toEqual([{ proof: 'read back over the network; its server may have answered from memory' }]);
  });

  it('whose line is slow is filed to, and nobody takes it for one that hangs', async () => {
    const id = await brought();
    await drive.is('slow');
    await fileNow(test.house, id);
    expect((await theIntake(test.house, id)).state).toBe('tallied');
    expect((await placeViews(test.house))[0]).toMatchObject({ online: true });
    await drive.is('up');
    await expectWhole(id);
  });

  it('whose line is cut in the middle and comes back: filing goes on by itself', async () => {
    const id = await brought();
    onBegin = { at: 4, run: () => drive.is('cut') };
    await fileNow(test.house, id);
    const { state, note } = await theIntake(test.house, id);
    expect(state).toBe('needs attention');
    expect(note).toMatch(/^Shared drive went away at \d\d:\d\d; filing goes on by itself when it is back\.$/);
    const worker = workerOf(test, false);
    await worker.start();
    try {
      await sleep(3_000);
      await drive.is('up');
      await until(async () => (await theIntake(test.house, id)).state === 'tallied', 90);
    } finally {
      await worker.stop();
    }
    await expectWhole(id);
  });

  it('that hangs keeps nobody waiting who does not need it, and is gone on with when it answers again', async () => {
    const id = await brought();
    await drive.is('hang');
    const began = performance.now();
    expect((await placeViews(test.house))[0]).toMatchObject({
      ...{ online: false, problem: expect.stringMatching(/does not answer/) as unknown as string },
    });
    const first = performance.now() - began;
    for (let times = 0; times < 8; times++) await placeViews(test.house);
    expect(performance.now() - began - first).toBeLessThan(first);
    await drive.is('up');
    await until(async () => (await placeViews(test.house))[0]!.online);
    await fileNow(test.house, id);
    expect((await theIntake(test.house, id)).state).toBe('tallied');
    await expectWhole(id);
  });
});
