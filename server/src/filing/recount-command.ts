import { EXIT, jsonLine, say } from '../cli/output.js';
import type { House } from '../house/index.js';
import { recount } from './recount.js';

/** `tally house recount`: counts all totals anew, says what differed, and mends it. */
export async function recountCommand(house: House, options: { json?: boolean }): Promise<number> {
  let found = 0;
  for await (const difference of recount(house)) {
    found++;
    if (options.json) jsonLine(difference);
    else say(`${difference.of}: ${difference.what} was kept as ${difference.kept}, and is ${difference.counted}.`);
  }
  if (!options.json) say(found ? `${found} totals differed, and are right now.` : 'Every total is what a plain count finds.');
  return found ? EXIT.attention : EXIT.done;
}
