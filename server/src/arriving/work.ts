import pLimit from 'p-limit';
import type { Once } from '../work/once.js';
import type { Work } from '../work/worker.js';
import { actByItself } from './by-itself.js';
import { readIntake } from './read-items.js';
import { watchArrivals, watchStation } from './watching.js';
import type { House } from '../house/index.js';

const READ_AT_ONCE = 2;

/** Watches readers and folders, and reads what comes. */
export function arrivingWork(house: House): Work {
  const limit = pLimit(READ_AT_ONCE);
  const read = (id: number, once: Once) =>
    once.run(`reading ${id}`, (signal) =>
      limit(() =>
        house.locks.hold('reading', id, signal, async (inner) => {
          await readIntake(house, id, inner);
          if (!inner.aborted) await actByItself(house, id);
        }),
      ),
    );
  return {
    jobs: [
      {
        kind: 'read',
        lanes: READ_AT_ONCE,
        run: (id, once) => {
          read(id, once);
          return Promise.resolve();
        },
      },
    ],
    loops: [
      (signal) => watchStation(house, signal),
      ...house.settings.watched.map((watched) => (signal: AbortSignal) => watchArrivals(house, watched, signal)),
    ],
  };
}
