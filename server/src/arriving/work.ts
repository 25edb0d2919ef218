import pLimit from 'p-limit';
import { intakesWhere, type House } from '../house/index.js';
import type { Once } from '../work/once.js';
import type { Work } from '../work/worker.js';
import { actByItself } from './by-itself.js';
import { readIntake } from './read-items.js';
import { finishHandIns, forgetHandIns } from './hand-in.js';
import { watchArrivals, watchStation } from './watching.js';

const READ_AT_ONCE = 2;
/** How often hand-ins whose days are over are looked for. */
const FORGET_MS = 600_000;

/** Watches readers and folders, reads what comes, and goes on with what nobody reads. */
export function arrivingWork(house: House): Work {
  const limit = pLimit(READ_AT_ONCE);
  let forgot = 0;
  const read = (id: number, once: Once) =>
    once.run(`reading ${id}`, (signal) =>
      limit(() => house.locks.hold('reading', id, signal, (inner) => readIntake(house, id, inner, () => actByItself(house, id)))),
    );
  return {
    jobs: [{ kind: 'read', run: read }],
    sweep: async (once) => {
      const left = await intakesWhere(house.db, 'i.present and not i.read_through and i.station = $1', [house.settings.station]);
      for (const { id } of left) read(id, once);
      once.run('hand-ins', async () => {
        await finishHandIns(house);
        if (Date.now() - forgot < FORGET_MS) return;
        forgot = Date.now();
        await forgetHandIns(house);
      });
    },
    loops: [
      (signal) => watchStation(house, signal),
      ...house.settings.watched.map((watched) => (signal: AbortSignal) => watchArrivals(house, watched, signal)),
    ],
  };
}
