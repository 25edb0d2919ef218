import type { Work } from '../work/worker.js';
import { fillPlace, settleWhole } from './fill-place.js';
import { placesWaiting } from './store.js';
import type { House } from '../house/index.js';

/** A place that took nothing is left alone for a while. */
const REST_MS = 60_000;

/** Fills places that wait for copies, one process a place. */
export function keepingWork(house: House): Work {
  const resting = new Map<string, number>();
  return {
    sweep: (once) => {
      once.run('places', async () => {
        await settleWhole(house);
        for (const placeId of await placesWaiting(house.db)) {
          if ((resting.get(placeId) ?? 0) > Date.now()) continue;
          once.run(`place ${placeId}`, (signal) =>
            house.locks.hold('filling', placeId, signal, async (inner) => {
              const { copies, problems } = await fillPlace(house, placeId, inner);
              if (!copies && problems.length) resting.set(placeId, Date.now() + REST_MS);
            }),
          );
        }
      });
      return Promise.resolve();
    },
  };
}
