import type { FilingWish } from '@tally/contract';
import type { Composition } from '../composition.js';
import { haltFiling } from './halt.js';
import { intakeNumbered } from '../cli/intake.js';
import { EXIT } from '../cli/output.js';

const SAYS: Readonly<Record<FilingWish, string>> = {
  pause: 'pauses',
  'go on': 'goes on where its card is',
  stop: 'stops: what is whole stays, the rest is not filed',
};

/** `tally pause|go-on|stop NUMBER`: whoever carries the filing out heeds it within a second. */
export async function haltCommand(composition: Composition, number: string, wish: FilingWish): Promise<number> {
  const id = await intakeNumbered(composition, number);
  await haltFiling(composition.house, id, wish, 'command line');
  console.log(`Filing of ${number} ${SAYS[wish]}.`);
  return EXIT.done;
}
