import { AssignmentQuery, type Assignment } from '@tally/contract';
import { assignmentPage } from '../people/index.js';
import type { TestHouse } from './house.js';

/** The assignments of a house, as the pages of its list have them. */
export async function everyAssignment({ house }: Pick<TestHouse, 'house'>): Promise<Assignment[]> {
  const all: Assignment[] = [];
  for (let after: number | null | undefined; after !== null;) {
    const page = await assignmentPage(house.db, AssignmentQuery.parse({ limit: 3, ...(after ? { after } : {}) }));
    all.push(...page.assignments);
    after = page.next;
  }
  return all;
}
