import { expect } from '@jest/globals';
import { readFile, rm, utimes, writeFile, mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { chainLog, verifyLog } from '../audit/index.js';
import { backUp, destinationsOf } from '../backing/index.js';
import { printingTo } from '../cli/output.js';
import { copiesOf } from '../filing/index.js';
import { theIntake } from '../house/index.js';
import { originalCommand, writeManifests } from '../proving/index.js';
import { realPictures } from './cards.js';
import type { FreshDatabase } from './database.js';
import { bring, fileNow, never, type TestHouse } from './house.js';

/* What is asked of a house that has had several lives: filed in one, looked for in another. */

let cards = 0;
/** A card of two real pictures, filed, credit inside them. @returns its intake, and each picture by where it is filed */
export async function filedCard(house: TestHouse): Promise<{ id: number; number: string; originals: Map<string, string> }> {
  const card = join(house.folder, `CARD_${++cards}`);
  const paths = (await realPictures(card, 2)).map((name) => `DCIM/100REAL/${name}`);
  for (const path of paths) {
    const at = new Date(Date.UTC(2026, 3, 18, 9, cards));
    await writeFile(join(card, path), Buffer.concat([await readFile(join(card, path)), Buffer.from(`card ${cards}`)]));
    await utimes(join(card, path), at, at);
  }
  const id = await bring(house, card, house.slip);
  await fileNow(house.house, id);
  await writeManifests(house.house);
  const originals = new Map((await copiesOf(house.house.db, id)).map(({ from, to }) => [to, join(card, from)]));
  return { id, number: (await theIntake(house.house, id)).number, originals };
}

const quietly = <T>(run: () => T): T => printingTo({ out: () => undefined, err: () => undefined }, run);
/** Every picture comes out of the drive alone, as it was on its card. */
export async function allComeOut(test: TestHouse, originals: ReadonlyMap<string, string>): Promise<void> {
  for (const root of [test.shared, test.second])
    for (const [to, from] of originals) {
      const out = join(test.folder, 'out.bin');
      await rm(out, { force: true });
      expect({ to, code: await quietly(() => originalCommand(join(root, to), out)) }).toEqual({ to, code: 0 });
      expect((await readFile(out)).equals(await readFile(from))).toBe(true);
    }
}

/** Backs a house up to a folder. @returns the backup's own */
export const backedUp = async (
  of: TestHouse,
  to: string,
  passphrase: string | null = null,
  who: string | null = 'wren',
): Promise<string> => {
  await mkdir(to, { recursive: true });
  const [made] = await backUp(of.house, await destinationsOf(of.house, [to]), { who, passphrase, signal: never });
  expect(made).toMatchObject({ problem: null });
  return made!.folder!;
};
/** What is asked for to bring a backup back into a database and a data folder. */
export const bringing = (
  test: TestHouse,
  database: FreshDatabase,
  folder: string,
  dataDir: string,
  passphrase: string | null = null,
) => ({
  settings: { ...test.settings, databaseUrl: database.appUrl, databaseAdminUrl: database.adminUrl, dataDir },
  ...{ folder, passphrase, signal: never },
});
/** Where the first picture of a card is filed. */
export const firstOf = ({ originals }: { originals: ReadonlyMap<string, string> }) => [...originals.keys()][0]!;
/** What the verdict on a log is once all of it is chained. */
export async function verdictOf(of: TestHouse) {
  for (let tries = 0; tries < 300; tries++) {
    await chainLog(of.house, never);
    const verdict = await verifyLog(of.house);
    if (!verdict.waiting) return verdict;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error('never chained');
}
