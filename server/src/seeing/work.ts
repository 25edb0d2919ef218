import { record, type House } from '../house/index.js';
import type { Work } from '../work/worker.js';

const LOOK_MS = 3_600_000;
const DAY_MS = 86_400_000;

/** Removes previews of what nobody looked at for as long as the house keeps them. Each station has its own. */
export function seeingWork(house: House): Work {
  const days = house.settings.keep.previewDays;
  let last = 0;
  return {
    sweep: (once) => {
      if (days === null || Date.now() - last < LOOK_MS) return Promise.resolve();
      last = Date.now();
      once.run('previews that nobody looks at', async (signal) => {
        const now = house.clock();
        const removed = await house.previews.removeUnused(new Date(now.getTime() - days * DAY_MS), signal);
        const text = `Previews of ${removed} intakes that nobody had looked at for ${days} days were removed at ${house.settings.station}.`;
        if (removed) await record(house.db, { at: now, kind: 'retention', intakeId: null, who: null, text });
      });
      return Promise.resolve();
    },
  };
}
