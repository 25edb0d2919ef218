import { describe } from '@jest/globals';

/**
 * A block of tests that need what not every machine allows. Where it does not, the block says so in its name, by which the run
 * tells at its end what was left out (tools/parts/report).
 * @param why what is missing here; null: nothing
 */
export function wherePossible(why: string | null): (name: string, tests: () => void) => void {
  return (name, tests) => {
    if (why === null) describe(name, tests);
    else describe.skip(`${name} (left out: ${why})`, tests);
  };
}
