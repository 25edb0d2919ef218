import { EXIT, say } from '../cli/output.js';
import type { FilingWish } from '@tally/contract';
import { haltFiling } from './halt.js';
import { type House, intakeNumbered } from '../house/index.js';

const SAYS: Readonly<Record<FilingWish, string>> = {
  pause: 'pauses',
  'go on': 'goes on where its card is',
  stop: 'stops: what is whole stays, the rest is not filed',
};

/** `tally pause|go-on|stop NUMBER`: whoever carries the filing out heeds it within a second. */
export async function haltCommand(house: House, number: string, wish: FilingWish): Promise<number> {
  const id = await intakeNumbered(house, number);
  await haltFiling(house, id, wish, 'command line');
  say(`Filing of ${number} ${SAYS[wish]}.`);
  return EXIT.done;
}
