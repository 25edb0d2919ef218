import type { Work } from '../work/worker.js';
import type { House } from '../house/index.js';
import { record } from '../house/index.js';
import { forgetLinks } from './store/links.js';
import { forgetSessions } from './store/sessions.js';

/** How often what has ended is forgotten. */
const FORGET_MS = 600_000;
const DAY_MS = 86_400_000;

/** Sessions that have ended are forgotten, also where nobody signs in, and links whose days are over. */
export function doorWork(house: House): Work {
  let last = 0;
  return {
    sweep: async () => {
      if (Date.now() - last < FORGET_MS) return;
      last = Date.now();
      const now = house.clock();
      await forgetSessions(house.db, now);
      const links = await forgetLinks(house.db, new Date(now.getTime() - house.settings.keep.linkDays * DAY_MS));
      const text = `${links} hand-in links that had ended long ago were forgotten.`;
      if (links) await record(house.db, { at: now, kind: 'retention', intakeId: null, who: null, text });
    },
  };
}
