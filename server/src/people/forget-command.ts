import { EXIT, say, WHO, WrongUse } from '../cli/output.js';
import type { House } from '../house/index.js';
import { forgetContributor } from './forgetting.js';
import { contributorByCode } from './store/people.js';

/** `tally forget CODE --sure`: what is kept of a person is erased, as far as the pictures may stay. */
export async function forgetCommand(house: House, code: string, { sure }: { readonly sure?: boolean }): Promise<number> {
  const found = await contributorByCode(house.db, code);
  if (!found) throw new WrongUse(`There is no contributor with the code ${code}.`);
  if (!sure)
    throw new WrongUse(`Contacts, agreements and habits of ${found.name} would be erased, and not come back. Say --sure.`);
  const { agreements, habits, items } = await forgetContributor(house, found.id, WHO);
  say(
    `Forgotten: contacts, ${agreements} agreements and ${habits} habits are erased; a number stands for the name in ${items} items. The log follows as soon as a station has time.`,
  );
  return EXIT.done;
}
