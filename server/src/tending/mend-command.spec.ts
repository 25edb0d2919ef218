import { afterEach, expect, it } from '@jest/globals';
import { renameSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { EXIT, printingTo } from '../cli/output.js';
import { copiesOf } from '../filing/index.js';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../testing/house.js';
import { askCheck, runCheck } from './checking.js';
import { mend } from './mend-command.js';

/* The command line without a server: it does itself what waits, and one file that is in the way keeps no other from being mended. */

let test: TestHouse;
afterEach(() => test.end());

async function filed(): Promise<{ folder: string; names: string[] }> {
  const files = Object.fromEntries(Array.from({ length: 4 }, (_, n) => [`DCIM/${n}.JPG`, 900 + n]));
  const id = await bring(test, await makeCard(join(test.folder, 'CARD'), files, 5));
  await fileNow(test.house, id);
  const paths = (await copiesOf(test.house.db, id)).map(({ to }) => to);
  return { folder: dirname(paths[0]!), names: paths.map((path) => path.slice(dirname(path).length + 1)) };
}
async function checked(placeId: string): Promise<string[]> {
  const ask = { how: 'every byte', names: false, strict: false } as const;
  await runCheck(test.house, await askCheck(test.house, placeId, ask, 'test'), never);
  const rows = await test.house.db.query<{ kind: string; path: string }[]>(
    `select kind, path from drive_finding where place_id = $1 and kind <> 'only here' order by 2`,
    [placeId],
  );
  return rows.map(({ kind, path }) => `${kind} ${path}`);
}
async function told(run: () => Promise<number>): Promise<{ code: number; words: string }> {
  const lines: string[] = [];
  const out = (line: string) => void lines.push(line);
  const code = await printingTo({ out, err: out }, run);
  return { code, words: lines.join('\n') };
}

it('what an earlier mend left to a place is done first', async () => {
  test = await openHouse();
  const { folder, names } = await filed();
  renameSync(join(test.shared, folder, names[0]!), join(test.shared, folder, 'by hand.jpg'));
  for (const name of names.slice(1)) writeFileSync(join(test.second, folder, name), 'damaged');
  // The log follows the name; the second place has that to do yet.
  await checked('shared');
  expect(await checked('second')).toHaveLength(3);
  const { code } = await told(() => mend(test.house, [], { place: 'second' }, never));
  expect(code).toBe(EXIT.done);
  expect(await checked('second')).toEqual([]);
});

it('what is in the way is left out and told, and the rest is mended', async () => {
  test = await openHouse();
  const { folder, names } = await filed();
  for (const name of names.slice(2)) writeFileSync(join(test.second, folder, name), 'damaged');
  renameSync(join(test.second, folder, names[0]!), join(test.second, folder, 'by hand.jpg'));
  expect(await checked('second')).toHaveLength(3);
  // Somebody puts something where the moved one is to come back to.
  writeFileSync(join(test.second, folder, names[0]!), 'a stranger');
  const { code, words } = await told(() => mend(test.house, [], { place: 'second' }, never));
  expect(code).toBe(EXIT.attention);
  expect(words).toMatch(/left out: .*by hand\.jpg: .* stands there already/);
  const left = await checked('second');
  expect(left.filter((line) => line.startsWith('changed') && !line.includes(names[0]!))).toEqual([]);
});
