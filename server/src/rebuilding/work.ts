import type { House } from '../house/index.js';
import type { Work } from '../work/worker.js';
import { goOnRebuilding } from './rebuilding.js';

/** Goes on with a rebuild that somebody began. */
export const rebuildingWork = (house: House): Work => ({
  sweep: (once) => {
    once.run('rebuilding', (signal) => goOnRebuilding(house, 'the house', signal));
    return Promise.resolve();
  },
});
