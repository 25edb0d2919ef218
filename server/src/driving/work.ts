import type { Work } from '../work/worker.js';
import { joinPlaceTotals } from './store.js';
import type { House } from '../house/index.js';

/** So many lines of a place's total are put together. */
const MANY = 200;
/** Now and then: reading some thousand lines takes a millisecond. */
const EVERY_MS = 30_000;

/** Keeps the totals of places short. */
export function drivingWork(house: House): Work {
  let next = 0;
  return {
    sweep: async () => {
      if (Date.now() < next) return;
      next = Date.now() + EVERY_MS;
      await joinPlaceTotals(house.db, MANY);
    },
  };
}
