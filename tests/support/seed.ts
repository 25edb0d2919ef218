import fc from 'fast-check';

/** One seed for every random test of a run; `TALLY_SEED=N` repeats one. tools/test.mjs chooses it and prints it. */
export const seed = Number(process.env['TALLY_SEED'] ?? 1);
/** How often what holds for anything is tried, where a test does not say it; `TALLY_RUNS=5000` for a long look. */
const numRuns = Number(process.env['TALLY_RUNS'] ?? 100);

fc.configureGlobal({ seed, numRuns });
