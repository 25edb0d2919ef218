import type { House } from '../house/index.js';
import type { Work } from '../work/worker.js';
import { forgetChanges } from './store/kept.js';

/** Whoever keeps the shelf in memory has followed by then, or reads it anew. */
const KEPT_HOURS = 48;
const FORGET_EVERY_MS = 3_600_000;

/** Forgets now and then what changed long ago. */
export function shelfWork(house: House): Work {
  let next = 0;
  return {
    sweep: (once) => {
      if (Date.now() < next) return Promise.resolve();
      next = Date.now() + FORGET_EVERY_MS;
      once.run('forgetting changes of the shelf', () => forgetChanges(house.db, KEPT_HOURS));
      return Promise.resolve();
    },
  };
}
