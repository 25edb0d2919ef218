import type { ContributorDetail } from '@tally/contract';
import { type House, Refusal } from '../house/index.js';
import { agreementsOf } from './store/agreements.js';
import { contributorById, formerCodes, monthsOf } from './store/corrections.js';

/** Everything that is kept of a contributor, for their page. */
export async function contributorDetail({ db, settings }: House, id: number): Promise<ContributorDetail> {
  const person = await contributorById(db, id);
  if (!person) throw new Refusal('not found', 'There is no such contributor.');
  return {
    ...person,
    formerCodes: await formerCodes(db, id),
    agreements: await agreementsOf(db, id),
    months: await monthsOf(db, id, settings.zone),
  };
}
