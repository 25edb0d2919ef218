import type { Work } from '../work/worker.js';
import type { House } from '../house/index.js';
import { forgetSessions } from './store/sessions.js';

/** How often what has ended is forgotten. */
const FORGET_MS = 600_000;

/** Sessions that have ended are forgotten, also where nobody signs in. */
export function doorWork(house: House): Work {
  let last = 0;
  return {
    sweep: async () => {
      if (Date.now() - last < FORGET_MS) return;
      last = Date.now();
      await forgetSessions(house.db, house.clock());
    },
  };
}
