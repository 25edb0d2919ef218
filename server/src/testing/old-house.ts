import pg from 'pg';
import { openHouse, type TestHouse } from './house.js';

const MADE = new URL('../../../bench/old-house/made.mjs', import.meta.url).href;

type Size = Readonly<Record<'items' | 'intakes' | 'contributors' | 'assignments' | 'years', number>>;

/** A house of one's own with a small old house in it; the files are not there. */
export async function openOldHouse(size: Size): Promise<TestHouse> {
  const test = await openHouse({}, [{ id: 'offsite', kind: 'off-site copy' }]);
  const { makeOldHouse } = (await import(MADE)) as {
    makeOldHouse: (client: pg.Client, places: readonly string[], size: Size) => Promise<void>;
  };
  const owner = new pg.Client({ connectionString: test.database.adminUrl });
  await owner.connect();
  try {
    // Whom a house of tests begins with.
    await owner.query('truncate contributor, assignment, card cascade');
    await makeOldHouse(owner, ['shared', 'second', 'offsite'], size);
  } finally {
    await owner.end();
  }
  return test;
}
