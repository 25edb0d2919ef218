import type { Work } from '../work/worker.js';
import { houseTime, type House, Refusal } from '../house/index.js';
import { destinationsOf } from './destinations.js';
import { backUp } from './making.js';
import { passphraseOf } from './passphrase.js';
import { lastMade } from './store.js';

const LOOK_MS = 60_000;
/** What failed is tried again as often. */
const AGAIN_MS = 3_600_000;

/** Backs the house up each night, at its hour or as soon afterwards as somebody is there to do it. */
export function backingWork(house: House): Work {
  const { backup, role } = house.settings;
  // A worker has another data folder than the server: it does it only where the settings say that it should.
  if (backup === 'by hand' || (role === 'worker' && backup.to === undefined)) return {};
  let looked = 0;
  return {
    sweep: (once) => {
      if (Date.now() - looked >= LOOK_MS) {
        looked = Date.now();
        once.run('backup', (signal) => nightly(house, backup.hour, signal));
      }
      return Promise.resolve();
    },
  };
}

async function nightly(house: House, hour: number, signal: AbortSignal): Promise<void> {
  const now = house.clock();
  const local = houseTime(house, now);
  const today = local.slice(0, 10);
  const made = await lastMade(house.db);
  const isDone = (at: Date) => houseTime(house, at).slice(0, 10) === today;
  // The first one is not waited for until the night.
  if (made.length && Number(local.slice(11, 13)) < hour) return;
  const last = new Map(made.map((one) => [one.to, one]));
  const due = (await destinationsOf(house)).filter(({ to, folder }) => {
    const before = last.get(to);
    if (!before || !isDone(before.at)) return true;
    // One that is away is told once a day.
    return before.problem !== null && folder !== null && now.getTime() - before.at.getTime() >= AGAIN_MS;
  });
  if (!due.length) return;
  await backUp(house, due, { who: null, passphrase: await passphraseOf(house.settings), signal }).catch((error: unknown) => {
    // Somebody does it by hand just now.
    if (!(error instanceof Refusal)) throw error;
  });
}
