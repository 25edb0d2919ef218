import type { Work } from '../work/worker.js';
import { houseTime, type House } from '../house/index.js';
import { chainLog } from './chaining.js';
import { eraseWaiting } from './erasing.js';
import { writeNightly } from './heads.js';

/** How often the log is chained: what was told since is what a change of would not be seen. */
const CHAIN_MS = 20_000;
const HEADS_MS = 60_000;

/** Chains the log all the time, erases what is to be erased from it, and writes its head to the drive each night. */
export function auditWork(house: House): Work {
  let chained = 0;
  let looked = 0;
  const day = (at: Date) => houseTime(house, at).slice(0, 10);
  return {
    sweep: (once) => {
      if (Date.now() - chained >= CHAIN_MS) {
        chained = Date.now();
        once.run('chain', (signal) => chainLog(house, signal).then(() => undefined));
      }
      once.run('erase', (signal) => eraseWaiting(house, signal).then(() => undefined));
      if (Date.now() - looked >= HEADS_MS) {
        looked = Date.now();
        once.run('log heads', (signal) => writeNightly(house, (last) => day(last) === day(house.clock()), signal));
      }
      return Promise.resolve();
    },
  };
}
