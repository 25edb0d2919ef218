// Makes the demonstration's house that journeys begin with, new: drawn, and its earlier cards filed. They open and copy it.
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { removeCluster } from './cluster.mjs';
import { openDemoHouse } from './demo-house.mjs';
import { ROOT } from './ready.mjs';

/** What a house of the journeys is like: its clock stands still, nothing lies in the reader. */
export const LIKE = { frozen: true, testing: true, cards: [], past: 20 };
/** A whole run keeps them where it keeps everything else that is soon gone. */
const HOUSES = process.env.TALLY_JOURNEYS ?? join(ROOT, '.tally/journeys');
export const folderOf = (worker) => join(HOUSES, String(worker));

/** Makes it, and lets its database rest. */
export async function makeHouse() {
  removeCluster(join(folderOf(0), 'db'));
  rmSync(HOUSES, { recursive: true, force: true });
  const { cluster } = await openDemoHouse(folderOf(0), LIKE);
  cluster.stop();
}

if (process.argv[1] === import.meta.filename) await makeHouse();
