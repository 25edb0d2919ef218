import { execFileSync } from 'node:child_process';

/*
 * Networks of a run of the tests: what it makes is named by its number, so that two runs beside each other do not meet and
 * one that is ended is cleared away (tools/parts/left-behind).
 */

const run = process.env['TALLY_TEST_RUN'] ?? String(process.pid);

/** Name of an interface or a namespace: at most 15 characters (Linux, IFNAMSIZ). @param what a letter and a number */
export const networkName = (what: string): string => `tly${run}${what}`;

const addresses = () => execFileSync('ip', ['-oneline', '-4', 'address'], { encoding: 'utf8' });

/** The first three numbers of a network of 254 machines that nobody on this machine has. */
export function freeSubnet(): string {
  const inUse = addresses();
  for (let tries = 0; tries < 200; tries++) {
    const subnet = `10.${100 + (Number(run) % 100)}.${(tries * 37 + process.pid) % 250}`;
    if (!inUse.includes(` ${subnet}.`)) return subnet;
  }
  throw new Error('There is no network free for the tests.');
}
