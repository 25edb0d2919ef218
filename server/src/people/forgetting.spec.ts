import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../testing/house.js';
import { eraseWaiting } from '../audit/index.js';
import { writeManifests } from '../proving/index.js';
import { addAgreement } from './agreements.js';
import { changeContributor } from './correcting.js';
import { contributorDetail } from './detail.js';
import { forgetContributor } from './forgetting.js';

let test: TestHouse;
beforeAll(async () => {
  test = await openHouse();
});
afterAll(() => test.end());

describe('a contributor who wishes to be forgotten', () => {
  it('leaves pictures and a number; contacts, agreements and the name are gone', async () => {
    const { house, slip } = test;
    const { contributorId } = slip;
    const contacts = {
      email: 'ines@barrow.example',
      phone: '01 23',
      notes: 'lives by the quay',
      given: 'Ines',
      family: 'Barrow',
    };
    await changeContributor(house, contributorId, { name: 'Ines Castell' }, 'wren');
    await changeContributor(house, contributorId, { name: 'Ines Barrow', ...contacts }, 'wren');
    await addAgreement(house, contributorId, { what: 'Photographs', signedOn: '2025-01-01', until: null }, 'wren');
    const intake = await bring(test, await makeCard(join(test.folder, 'CARD'), { 'A/1.JPG': 900 }, 1));
    await fileNow(house, intake);
    await writeManifests(house, never);

    const forgotten = await forgetContributor(house, contributorId, 'wren');
    expect(forgotten).toMatchObject({ agreements: 1, items: 1 });
    const detail = await contributorDetail(house, contributorId);
    expect(detail).toMatchObject({ email: '', phone: '', notes: '', given: '', family: '', agreements: [], creditLine: null });
    const rows = await house.db.query<{ name: string; retired: boolean }[]>(
      'select name, retired_at is not null as retired from contributor where id = $1',
      [contributorId],
    );
    expect(rows[0]).toEqual({ name: `Contributor ${contributorId}`, retired: true });

    const [{ words }] = await house.db.query<[{ words: string }]>('select words from intake where id = $1', [intake]);
    expect(words).not.toContain('barrow');
    expect(words).toContain(`contributor ${contributorId}`);

    await writeManifests(house, never);
    const [{ folder, number }] = await house.db.query<[{ folder: string; number: string }]>(
      `select f.folder, n.number from filed_item f join intake n on n.id = f.intake_id limit 1`,
    );
    const record = await readFile(join(test.shared, folder, `intake-${number}.json`), 'utf8');
    expect(record).not.toContain('Barrow');
    expect(record).toContain(`Contributor ${contributorId}`);
    const [told] = await house.db.query<{ text: string }[]>(`select text from event where kind = 'forgotten'`);
    expect(told!.text).not.toContain('Barrow');
    expect(await forgetContributor(house, contributorId, 'wren')).toMatchObject({ agreements: 0, habits: 0 });

    // The log follows: nothing of the name and the contacts stands in it, whatever they were called before.
    const left = async () =>
      (
        await house.db.query<{ text: string }[]>(
          `select text from event where concat_ws(' ', who, text, data::text) ~* 'barrow|by the quay|01 23|Ines Castell'`,
        )
      ).map(({ text: of }) => of);
    expect(await left()).not.toEqual([]);
    for (let tries = 0; tries < 300 && (await left()).length; tries++) {
      await eraseWaiting(house, never);
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
    expect(await left()).toEqual([]);
  });

  it('who is not there cannot be', async () => {
    await expect(forgetContributor(test.house, 99_999, 'wren')).rejects.toThrow('no such contributor');
  });
});
