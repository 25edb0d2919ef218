import type { AssignmentChange, ContributorChange } from '@tally/contract';
import { inTransaction } from '../db/database.js';
import { type House, record, Refusal, sayAnew, tell } from '../house/index.js';
import { correctAssignment, correctContributor, holdAssignment, holdContributor } from './store/corrections.js';

/**
 * Corrects a contributor, retires them or puts them back.
 * @throws Refusal when the code is taken, or stands in names on the drive: there it keeps meaning the same person.
 */
export async function changeContributor(house: House, id: number, change: ContributorChange, who: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    const before = await holdContributor(tx, id);
    if (!before) throw new Refusal('not found', 'There is no such contributor.');
    const { name, code, retired } = change;
    if (code !== undefined && code !== before.code && before.filed > 0)
      throw new Refusal('conflict', `The code ${before.code} stands in the names of ${before.filed} files: it stays theirs.`);
    const at = house.clock();
    if (!(await correctContributor(tx, id, change, at)))
      throw new Refusal('conflict', `The code ${code} belongs to somebody already.`);
    await sayAnew(tx, 'contributor', id);
    const says = [
      name !== undefined && name !== before.name && `is called ${name} now`,
      code !== undefined && code !== before.code && `has the code ${code} now`,
      retired === true && !before.retired && 'is retired',
      retired === false && before.retired && 'is back',
    ].filter(Boolean);
    if (!says.length) return;
    const text = `${before.name} (${before.code}) ${says.join(', ')}.`;
    await record(tx, { at, kind: 'contributor', intakeId: null, who, text, data: { id, before, change } });
    await tell(tx, { type: 'people' });
    await tell(tx, { type: 'desk' });
  });
}

/**
 * Corrects an assignment, retires it or puts it back.
 * @throws Refusal when its short name is taken, or it or its code stand in names on the drive.
 */
export async function changeAssignment(house: House, id: number, change: AssignmentChange, who: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    const before = await holdAssignment(tx, id);
    if (!before) throw new Refusal('not found', 'There is no such assignment.');
    const renames = [
      change.slug !== undefined && change.slug !== before.slug,
      change.code !== undefined && change.code !== before.code,
    ];
    if (renames.includes(true) && before.filed > 0)
      throw new Refusal('conflict', `${before.slug} stands in the names of ${before.filed} files: short name and code stay.`);
    if ((change.from ?? before.from) > (change.to ?? before.to))
      throw new Refusal('conflict', 'The last day must not be before the first day.');
    const at = house.clock();
    if (!(await correctAssignment(tx, id, change, at)))
      throw new Refusal('conflict', `The short name ${change.slug} is another assignment’s already.`);
    await sayAnew(tx, 'assignment', id);
    const does = change.retired === true ? 'retired' : change.retired === false ? 'put back' : 'corrected';
    const text = `Assignment ${before.title} (${before.slug}) ${does}${change.title ? `: ${change.title}` : ''}.`;
    await record(tx, { at, kind: 'assignment', intakeId: null, who, text, data: { id, before, change } });
    await tell(tx, { type: 'people' });
    await tell(tx, { type: 'desk' });
  });
}
