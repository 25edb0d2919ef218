import type { NewAssignment, NewContributor } from '@tally/contract';
import { inTransaction } from '../db/database.js';
import { wordsCalled } from './lists/words.js';
import { setAssignmentWords } from './store/corrections.js';
import { addAssignment, addContributor } from './store/people.js';
import { type House, record, Refusal, tell } from '../house/index.js';

export async function makeContributor(house: House, contributor: NewContributor, who: string): Promise<number> {
  const at = house.clock();
  const id = await addContributor(house.db, contributor, at);
  if (id === null) throw new Refusal('conflict', `The code ${contributor.code} belongs to somebody already.`);
  await record(house.db, {
    at,
    kind: 'contributor',
    intakeId: null,
    who,
    text: `${contributor.name} (${contributor.code}) joined.`,
  });
  await tell(house.db, { type: 'people' });
  return id;
}

export async function makeAssignment(house: House, assignment: NewAssignment, who: string): Promise<number> {
  const id = await inTransaction(house.db, async (tx) => {
    const added = await addAssignment(tx, assignment);
    if (added !== null && assignment.words) await setAssignmentWords(tx, added, await wordsCalled(tx, house, assignment.words));
    return added;
  });
  if (id === null) throw new Refusal('conflict', `The slug ${assignment.slug} names another assignment already.`);
  await record(house.db, {
    at: house.clock(),
    kind: 'assignment',
    intakeId: null,
    who,
    text: `Assignment ${assignment.title} (${assignment.slug}).`,
  });
  await tell(house.db, { type: 'people' });
  return id;
}
