import type { ForgottenAnswer } from '@tally/contract';
import { eraseFromLog, forgottenName } from '../audit/index.js';
import { inTransaction } from '../db/database.js';
import { record, Refusal, sayAnew, tell, unsay, type House } from '../house/index.js';
import { followItems } from './following.js';
import { correctContributor, holdContributor, ITEMS_OF, type KnownContributor } from './store/corrections.js';
import { following } from './store/following.js';
import { forgetBesides } from './store/forgetting.js';

/**
 * A contributor wishes to be forgotten: contacts, notes, agreements with their scans and habits are erased, no camera is
 * theirs any more, and a number stands for the name: in the records beside the files and in the files it follows by itself.
 * In the log it follows by itself, too. What stays: the pictures, and the code that stands in their names.
 * Called again, it finds nothing more to do.
 */
export async function forgetContributor(house: House, id: number, who: string): Promise<ForgottenAnswer> {
  return inTransaction(house.db, async (tx) => {
    const before = await holdContributor(tx, id);
    if (!before) throw new Refusal('not found', 'There is no such contributor.');
    const at = house.clock();
    const nothing = { given: '', family: '', email: '', phone: '', address: '', web: '', notes: '', inside: [], minor: false };
    const plain = { ...nothing, name: forgottenName(id), creditLine: null, copyrightNotice: null, retired: true };
    await correctContributor(tx, id, { ...plain, revision: before.revision }, before, at);
    const erased = await forgetBesides(tx, id);
    await unsay(tx, id, before.name);
    if (before.name !== plain.name) await eraseFromLog(tx, who, { id, ...whatIsKnown(before) });
    await sayAnew(tx, 'contributor', id);
    const items = await followItems(tx, ITEMS_OF.contributor, [id], true);
    // Neither the name nor what was erased is told.
    const text = `${forgottenName(id)} was forgotten: contacts, ${erased.agreements} agreements and ${erased.habits} habits erased; ${items} items follow.`;
    await record(tx, { at, kind: 'forgotten', intakeId: null, who, text });
    await tell(tx, { type: 'people' });
    return { id, items, following: await following(tx), ...erased };
  });
}

/** What the log may say of somebody: names, and lines of contacts and notes. */
function whatIsKnown({ name, given, family, email, phone, address, web, notes }: KnownContributor) {
  const names = [name, ...(given && family ? [`${given} ${family}`, `${family} ${given}`] : [])];
  return { names, lines: [email, phone, address, web, notes].filter((line) => line !== '') };
}
