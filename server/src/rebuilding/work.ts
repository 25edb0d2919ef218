import { type House, Refusal } from '../house/index.js';
import type { Work } from '../work/worker.js';
import { goOnRebuilding } from './rebuilding.js';

/** Goes on with a rebuild that somebody began. */
export const rebuildingWork = (house: House): Work => ({
  sweep: (once) => {
    once.run('rebuilding', (signal) =>
      goOnRebuilding(house, 'the house', signal).catch((error: unknown) => {
        // A place is away, as the desk says: it goes on when that is back.
        if (!(error instanceof Refusal)) throw error;
      }),
    );
    return Promise.resolve();
  },
});
