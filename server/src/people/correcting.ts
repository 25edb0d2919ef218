import type { AssignmentChange, ContributorChange, CorrectionAnswer } from '@tally/contract';
import { type Db, inTransaction } from '../db/database.js';
import { type House, joinParts, record, Refusal, sayAnew, tell } from '../house/index.js';
import { changesOf } from './lists/changes.js';
import { mustBeSeen } from './lists/lists.js';
import { wordsCalled } from './lists/words.js';
import {
  correctAssignment,
  correctContributor,
  holdAssignment,
  holdContributor,
  ITEMS_OF,
  mergeAssignment,
  mergeContributor,
  setAssignmentWords,
} from './store/corrections.js';
import { followItems } from './following.js';
import { following } from './store/following.js';

const CONTRIBUTOR_WORDS: Readonly<Record<string, string>> = {
  ...{
    given: 'given name',
    family: 'family name',
    kind: 'kind',
    email: 'e-mail',
    phone: 'phone',
    address: 'address',
    web: 'web',
  },
  ...{
    inside: 'what stays inside',
    creditLine: 'credit line',
    copyrightNotice: 'copyright notice',
    termsId: 'terms',
    notes: 'notes',
    minor: 'minor',
  },
};

/**
 * Corrects a contributor, retires them or puts them back. The log keeps what it was; records beside the files follow.
 * @throws Refusal when the code is taken, stands in names on the drive (there it keeps meaning the same person), or
 * somebody else corrected them since.
 */
export async function changeContributor(
  house: House,
  id: number,
  change: ContributorChange,
  who: string,
): Promise<CorrectionAnswer> {
  return inTransaction(house.db, async (tx) => {
    const before = await holdContributor(tx, id);
    if (!before) throw new Refusal('not found', 'There is no such contributor.');
    mustBeSeen(change.revision, before);
    const { name, code, retired } = change;
    if (code !== undefined && code !== before.code && before.filed > 0)
      throw new Refusal('conflict', `The code ${before.code} stands in the names of ${before.filed} files: it stays theirs.`);
    const at = house.clock();
    const says = [
      name !== undefined && name !== before.name && `is called ${name} now`,
      code !== undefined && code !== before.code && `has the code ${code} now`,
      retired === true && !before.retired && 'is retired',
      retired === false && before.retired && 'is back',
      ...(await changesOf(tx, before, change, CONTRIBUTOR_WORDS)),
    ].filter(Boolean);
    if (!says.length) return { id, items: 0, following: 0 };
    if (!(await correctContributor(tx, id, change, before, at)))
      throw new Refusal('conflict', `The code ${code} belongs to somebody already.`);
    await sayAnew(tx, 'contributor', id);
    const isCredit = [name, change.given, change.family, change.creditLine, change.copyrightNotice, change.termsId].some(
      (value) => value !== undefined,
    );
    const items = isCredit ? await followItems(tx, ITEMS_OF.contributor, [id], true) : 0;
    const text = `${before.name} (${before.code}) ${says.join(', ')}.`;
    await record(tx, { at, kind: 'contributor', intakeId: null, who, text, data: { id, before, change } });
    await tellPeople(tx);
    return { id, items, following: await following(tx) };
  });
}

const ASSIGNMENT_WORDS: Readonly<Record<string, string>> = {
  ...{
    title: 'title',
    slug: 'short name',
    code: 'code',
    from: 'first day',
    to: 'last day',
    place: 'place',
    description: 'description',
  },
  ...{ expectedCards: 'cards expected', contacts: 'contacts', embargoUntil: 'embargo', termsId: 'terms', locationId: 'location' },
};

/**
 * Corrects an assignment, retires it or puts it back.
 * @throws Refusal when its short name is taken, it or its code stand in names on the drive, or somebody else corrected it since.
 */
export async function changeAssignment(
  house: House,
  id: number,
  change: AssignmentChange,
  who: string,
): Promise<CorrectionAnswer> {
  return inTransaction(house.db, async (tx) => {
    const before = await holdAssignment(tx, id);
    if (!before) throw new Refusal('not found', 'There is no such assignment.');
    mustBeSeen(change.revision, { revision: before.revision, name: before.title });
    const renames = [
      change.slug !== undefined && change.slug !== before.slug,
      change.code !== undefined && change.code !== before.code,
    ];
    if (renames.includes(true) && before.filed > 0)
      throw new Refusal('conflict', `${before.slug} stands in the names of ${before.filed} files: short name and code stay.`);
    if ((change.from ?? before.from) > (change.to ?? before.to))
      throw new Refusal('conflict', 'The last day must not be before the first day.');
    const at = house.clock();
    if (!(await correctAssignment(tx, id, change, before, at)))
      throw new Refusal('conflict', `The short name ${change.slug} is another assignment’s already.`);
    const hasOtherWords = change.words ? await setAssignmentWords(tx, id, await wordsCalled(tx, house, change.words)) : false;
    await sayAnew(tx, 'assignment', id);
    const items = await followItems(tx, ITEMS_OF.assignment, [id], true);
    const does = change.retired === true ? 'retired' : change.retired === false ? 'put back' : 'corrected';
    const changes = await changesOf(tx, before, change, ASSIGNMENT_WORDS);
    if (change.words && hasOtherWords) changes.push(`words ${change.words.join(', ') || 'none'}`);
    const text = `Assignment ${before.title} (${before.slug}) ${does}${changes.length ? `: ${changes.join('; ')}` : ''}.`;
    await record(tx, { at, kind: 'assignment', intakeId: null, who, text, data: { id, before, change } });
    await tellPeople(tx);
    return { id, items, following: await following(tx) };
  });
}

/** Two records of one person become one; a code of the first keeps meaning the person, in names and when it is typed. */
export async function mergeContributors(house: House, id: number, into: number, who: string): Promise<CorrectionAnswer> {
  return mergeTwo(house, id, into, who, {
    ...{ noun: 'contributor', hold: holdContributor, items: ITEMS_OF.contributor, merge: mergeContributor },
    called: ({ name, code }) => `${name} (${code})`,
  });
}

/** Two records of one assignment become one. Names on the drive stay as they are. */
export async function mergeAssignments(house: House, id: number, into: number, who: string): Promise<CorrectionAnswer> {
  return mergeTwo(house, id, into, who, {
    ...{ noun: 'assignment', hold: holdAssignment, items: ITEMS_OF.assignment, merge: mergeAssignment },
    called: ({ title, slug }) => `${title} (${slug})`,
  });
}

interface Merging<T> {
  readonly noun: 'contributor' | 'assignment';
  readonly hold: (db: Db, id: number) => Promise<T | null>;
  readonly items: string;
  readonly merge: (db: Db, id: number, into: number) => Promise<void>;
  readonly called: (record: T) => string;
}

async function mergeTwo<T>(
  house: House,
  id: number,
  into: number,
  who: string,
  { noun, hold, items: itemsOf, merge, called }: Merging<T>,
): Promise<CorrectionAnswer> {
  if (id === into) throw new Refusal('conflict', 'These are one already: name two.');
  return inTransaction(house.db, async (tx) => {
    // Always in one order: two who merge crosswise wait for each other.
    const held = new Map<number, T | null>();
    for (const one of [id, into].sort((a, b) => a - b)) held.set(one, await hold(tx, one));
    const [from, to] = [held.get(id), held.get(into)];
    if (!from || !to) throw new Refusal('not found', `There is no such ${noun}.`);
    await merge(tx, id, into);
    await joinParts(tx, noun, into);
    await sayAnew(tx, noun, into);
    const items = await followItems(tx, itemsOf, [into], true);
    const text = `${called(from)} and ${called(to)} are one: ${called(to)} (${items} items).`;
    await record(tx, { at: house.clock(), kind: noun, intakeId: null, who, text, data: { id, into, before: from } });
    await tellPeople(tx);
    return { id: into, items, following: await following(tx) };
  });
}

async function tellPeople(tx: Db): Promise<void> {
  await tell(tx, { type: 'people' });
  await tell(tx, { type: 'desk' });
}
