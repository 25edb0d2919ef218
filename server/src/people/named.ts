import { UNSORTED } from '@tally/contract';
import { WHO, WrongUse } from '../cli/output.js';
import { unsortedAssignment } from './joining.js';
import { assignmentBySlug, contributorByCode } from './store/people.js';
import type { House } from '../house/index.js';
import { houseList } from './lists/lists.js';

export interface SlipOptions {
  readonly contributor: string;
  readonly assignment: string;
  readonly json?: boolean;
}

/** The contributor and assignment that options name. @throws WrongUse when there is no such one. */
export async function slipOf(house: House, options: SlipOptions) {
  const contributor = await contributorByCode(house.db, options.contributor);
  if (!contributor) throw new WrongUse(`There is no contributor with the code ${options.contributor}.`);
  return { contributor, assignment: await assignmentCalled(house, options.assignment) };
}

/** By its short name; the one for what is sorted later is made when it is named first. @throws WrongUse when there is none. */
export async function assignmentCalled(house: House, slug: string) {
  if (slug === UNSORTED) await unsortedAssignment(house, WHO);
  const assignment = await assignmentBySlug(house.db, slug);
  if (!assignment) throw new WrongUse(`There is no assignment with the slug ${slug}.`);
  return assignment;
}

export interface Slip {
  readonly contributor?: string;
  readonly assignment?: string;
}

export async function slipIds(house: House, slip: Slip) {
  const contributor = slip.contributor ? await contributorByCode(house.db, slip.contributor) : undefined;
  if (contributor === null) throw new WrongUse(`There is no contributor with the code ${slip.contributor}.`);
  const assignment = slip.assignment ? await assignmentCalled(house, slip.assignment) : undefined;
  return {
    ...(contributor ? { contributorId: contributor.id } : {}),
    ...(assignment ? { assignmentId: assignment.id } : {}),
  };
}

/** @throws WrongUse when there are no such terms. */
export async function termsCalled(house: House, name: string): Promise<number> {
  const all = await houseList(house.db, 'terms');
  const found = all.find((terms) => terms.name.toLowerCase() === name.toLowerCase());
  if (!found)
    throw new WrongUse(`There are no terms called ${name}: there are ${all.map((terms) => terms.name).join(', ') || 'none'}.`);
  return found.id;
}

/** @throws WrongUse when there is no such location. */
export async function locationCalled(house: House, name: string): Promise<number> {
  const all = await houseList(house.db, 'locations');
  const found = all.find((location) => location.name.toLowerCase() === name.toLowerCase());
  if (!found) throw new WrongUse(`There is no location called ${name}.`);
  return found.id;
}
