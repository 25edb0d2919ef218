import type { Work } from '../work/worker.js';
import { writeHouseRecordSoon } from './house-record.js';
import { writeManifests } from './manifests.js';
import type { House } from '../house/index.js';

/** Writes what is due beside the files. */
export const provingWork = (house: House): Work => ({
  sweep: (once) => {
    once.run('beside', (signal) => writeManifests(house, signal));
    once.run('house record', (signal) => writeHouseRecordSoon(house, signal));
    return Promise.resolve();
  },
});
