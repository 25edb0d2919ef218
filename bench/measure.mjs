// Measuring as a ratio in one run: rounds interleaved, caches dropped before each where that is possible, medians.
import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';

/**
 * How much of its size everything has: 1, or a part of it (`TALLY_BENCH_SHARE`, which `npm run bench -- smoke` sets). Names of
 * rows say the whole size, so that they are the same at any share.
 */
export const SHARE = Number(process.env.TALLY_BENCH_SHARE ?? 1);
const whole = SHARE >= 1;
/** That many at this share, at least `least`. */
export const some = (count, least = 1) => Math.max(least, Math.round(count * SHARE));
/** How often something is measured: below its whole size once or twice is enough to see that it can be. */
export const often = (rounds, least = 1) => (whole ? rounds : Math.min(rounds, least));
/** Milliseconds for which one waits until a machine is quiet: there is little to wait for below the whole size. */
export const quiet = (ms) => (whole ? ms : Math.min(ms, 200));

export const COLD = dropCaches() ? 'cold' : 'warm';

/** @returns whether they are empty now. Below the whole size they are left alone: others work on this machine meanwhile. */
export function dropCaches() {
  if (!whole || process.getuid() !== 0) return false;
  spawnSync('sync');
  try {
    writeFileSync('/proc/sys/vm/drop_caches', '3');
    return true;
  } catch {
    return false;
  }
}

export const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];

/** Runs each candidate once a round, in turn and every other round the other way round, and returns the median seconds of each. `prepare` runs untimed before every one. */
export async function race(candidates, { rounds = 3, cold = true, prepare = () => undefined } = {}) {
  const seconds = Object.fromEntries(Object.keys(candidates).map((name) => [name, []]));
  for (let round = 0; round < often(rounds); round++) {
    // There and back: nobody always comes first, or after the same one.
    const order = round % 2 ? Object.entries(candidates).reverse() : Object.entries(candidates);
    for (const [name, run] of order) {
      await prepare(name);
      if (cold) dropCaches();
      const began = process.hrtime.bigint();
      await run();
      seconds[name].push(Number(process.hrtime.bigint() - began) / 1e9);
    }
  }
  return Object.fromEntries(Object.entries(seconds).map(([name, all]) => [name, median(all)]));
}

export function sh(script, ...args) {
  const done = spawnSync('bash', ['-ec', script, 'bench', ...args], { encoding: 'utf8', maxBuffer: 1 << 28 });
  if (done.status !== 0) throw new Error(`${script}\n${done.stderr}`);
  return done.stdout;
}
