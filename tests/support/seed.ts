import fc from 'fast-check';

/** One seed for every random test of a run; `TALLY_SEED=N` repeats one. tools/test.mjs chooses it and prints it. */
export const seed = Number(process.env['TALLY_SEED'] ?? 1);

fc.configureGlobal({ seed });
