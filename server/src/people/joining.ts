import { type NewAssignment, type NewContributor, UNSORTED } from '@tally/contract';
import { inTransaction } from '../db/database.js';
import { wordsCalled } from './lists/words.js';
import { setAssignmentWords } from './store/corrections.js';
import { addAssignment, addContributor, assignmentBySlug } from './store/people.js';
import { type House, houseTime, record, Refusal, tell } from '../house/index.js';

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

/** The assignment for what is sorted later: made when it is asked for the first time. No card is expected for it. */
export async function unsortedAssignment(house: House, who: string): Promise<number> {
  const known = await assignmentBySlug(house.db, UNSORTED);
  if (known) return known.id;
  const day = houseTime(house, house.clock()).slice(0, 10);
  const fields = { title: 'Unsorted', slug: UNSORTED, code: '', from: day, to: day, place: '', expectedCards: 0 };
  return makeAssignment(house, { ...fields, expectedContributorIds: [] }, who).catch(async (error: unknown) => {
    // Somebody else asked at the same moment.
    const theirs = await assignmentBySlug(house.db, UNSORTED);
    if (theirs) return theirs.id;
    throw error;
  });
}
