import type { House } from '../house/index.js';
import type { Work } from '../work/worker.js';
import { followHouseSome } from './store/following.js';

/** So many intakes at a time: few enough that nothing else waits for it. */
const AT_A_TIME = 50;

/** Lets the records of all that was filed follow what the house says, from the newest intake back, wherever that stopped. */
export const peopleWork = (house: House): Work => ({
  sweep: (once) => {
    once.run('following the house', async (signal) => {
      while (!signal.aborted && (await followHouseSome(house.db, AT_A_TIME)));
    });
    return Promise.resolve();
  },
});
