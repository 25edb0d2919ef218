import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import type { MendAsk } from '@tally/contract';
import { copiesOf } from '../filing/index.js';
import { fillPlace } from '../keeping/index.js';
import { writeManifests } from '../proving/index.js';
import { filedPicturesAhead, FROM_THE_NEWEST } from '../seeing/index.js';
import { put } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../testing/house.js';
import { tool } from '../testing/tools.js';
import { drawnView } from '../testing/views.js';
import { runAdoption } from './adopting.js';
import { askAdopt } from './asking-to-adopt.js';
import { carryOutAll } from './carrying.js';
import { askCheck, runCheck } from './checking.js';
import { beginMend, planMend } from './mending.js';
import { findingsOf } from './viewing.js';

/*
 * The same picture in another size, as people export it for a web page and keep both.
 */
let test: TestHouse;
beforeAll(async () => (test = await openHouse({}, [{ id: 'away', kind: 'off-site copy', device: 'a box elsewhere' }])));
afterAll(() => test.end());

const written = (at: string) => ({ IFD0: { Make: 'Halden', Model: 'H-20' }, IFD2: { DateTimeOriginal: at } });
const at = '2026:04:18 10:00:00';

async function check() {
  await runCheck(
    test.house,
    await askCheck(test.house, 'shared', { how: 'size and time', names: false, strict: false }, 'test'),
    never,
  );
  const { findings } = await findingsOf(test.house, 'shared', { kind: 'near twin', after: 0, limit: 100 });
  return findings;
}

async function settle(): Promise<void> {
  await carryOutAll(test.house, never);
  for (const place of ['second', 'away']) await fillPlace(test.house, place, never, false);
  await writeManifests(test.house);
}

describe('near twins', () => {
  it('what was adopted and is filed in a larger size is found; what only looks like it is not; it goes to the tray everywhere', async () => {
    const view = sharp(await drawnView(1_800, 1_200));
    const other = sharp(await drawnView(1_800, 1_200)).flop();
    const card = join(test.folder, 'card');
    await put(join(card, 'DCIM/A.JPG'), await view.clone().jpeg().withExif(written(at)).toBuffer());
    await put(join(card, 'DCIM/B.JPG'), await other.clone().jpeg().withExif(written('2026:04:18 10:05:00')).toBuffer());
    const intake = await bring(test, card);
    await fileNow(test.house, intake);
    const [filed] = (await copiesOf(test.house.db, intake)).map(({ to }) => to);

    const exported = (width: number, height = Math.round(width / 1.5)) =>
      view.clone().resize(width, height, { fit: 'fill' }).jpeg({ quality: 60 });
    const beside = {
      'for the web.jpg': await exported(600).toBuffer(),
      'with its date.jpg': await exported(900).withExif(written(at)).toBuffer(),
      'a day later.jpg': await exported(620).withExif(written('2026:04:19 10:00:00')).toBuffer(),
      'of another shape.jpg': await exported(600, 500).toBuffer(),
      'only other bytes.jpg': await exported(1_800).withExif(written(at)).toBuffer(),
    };
    for (const [name, bytes] of Object.entries(beside)) await put(join(test.shared, 'exports', name), bytes);
    await check();
    const ask = { folder: 'exports', contributorId: null, assignmentId: null, title: 'Exports', day: null };
    await runAdoption(test.house, await askAdopt(test.house, 'shared', { folders: [ask] }, 'test'), never);
    await settle();
    // Nobody has looked at them yet: nothing can be told.
    expect(await check()).toEqual([]);
    for (let below: number | null = FROM_THE_NEWEST; below !== null;) below = await filedPicturesAhead(test.house, below);

    const found = await check();
    expect(found.map(({ path }) => path).sort()).toEqual(['exports/for the web.jpg', 'exports/with its date.jpg']);
    const web = found.find(({ path }) => path.endsWith('web.jpg'))!;
    const seen = JSON.parse(
      tool('exiftool', '-json', '-ImageSize', join(test.shared, web.path), join(test.shared, web.other!)),
    ) as {
      ImageSize: string;
    }[];
    expect(web.what).toBe(
      `${seen[0]!.ImageSize.replace('x', ' × ')} pixels, the other ${seen[1]!.ImageSize.replace('x', ' × ')}`,
    );
    expect([filed, 'exports/only other bytes.jpg', 'exports/with its date.jpg']).toContain(web.other);

    const mend: MendAsk = { kind: 'findings in', placeId: 'shared', finding: 'near twin', folder: 'exports' };
    const plan = await planMend(test.house, mend);
    expect(plan.steps.map(({ from, place }) => [from, place])).toEqual([
      ['exports/for the web.jpg', null],
      ['exports/with its date.jpg', null],
    ]);
    await beginMend(test.house, mend, plan.seal, 'test');
    await settle();
    for (const root of [test.shared, test.second, join(test.folder, 'away')]) {
      expect(existsSync(join(root, web.path))).toBe(false);
      expect(tool('find', join(root, '_put-aside'), '-name', 'for the web.jpg')).not.toBe('');
    }
    expect(await check()).toEqual([]);
  });
});
