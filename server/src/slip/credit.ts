import type { CreditAnswer, CreditChange, IntakeCredit, ShownAnswer } from '@tally/contract';
import { type Field, standardOf } from '@tally/core/fields';
import { nearKnown } from '@tally/core/location';
import { quoted } from '@tally/core/logbook';
import { type Db, inTransaction } from '../db/database.js';
import {
  behindAt,
  followItems,
  following,
  houseList,
  mustExist,
  nameOf,
  namesFor,
  picturedCalled,
  wordsCalled,
} from '../people/index.js';
import { refreshTotals, setDescription, setItemContributor, touchChosen } from '../seeing/index.js';
import { type House, keepUnshown, lockIntake, record, Refusal, tell, theIntake } from '../house/index.js';
import {
  type CreditBefore,
  changeItemWords,
  changedSince,
  changePictured,
  creditBefore,
  houseSays,
  positionsOf,
  setItemCredit,
  shownWhere,
  slipCredit,
  speakersOf,
  withCompanions,
  wordsOfIds,
} from './store/credit.js';

/** Everything that the items of an intake get their credit from, besides themselves. */
export async function intakeCredit(house: House, intakeId: number): Promise<IntakeCredit> {
  const { db } = house;
  const said = await slipCredit(db, intakeId);
  if (!said) throw new Refusal('not found', 'There is no such intake.');
  const { answeredBy, ...slip } = said;
  const locations = await houseList(db, 'locations');
  const near = nearKnown(locations, await positionsOf(db, intakeId));
  return {
    slip,
    answeredBy,
    house: { name: house.settings.house, ...(await houseSays(db)), locationId: null, words: [] },
    ...(await speakersOf(db, intakeId)),
    terms: await houseList(db, 'terms'),
    locations,
    near: near.map(({ locationId, taken, metres }) => ({ locationId, items: taken.length, metres })),
    following: await following(db, intakeId),
    behind: await behindAt(db, intakeId),
  };
}

/**
 * Changes the credit of items, filed or not, of any intake; companions go together. The records beside the files follow.
 * @throws Refusal when somebody else changed the same lines since, or an intake of them is being filed.
 */
export async function changeCredit(house: House, change: CreditChange, who: string): Promise<CreditAnswer> {
  return inTransaction(house.db, async (tx) => {
    await mustExist(tx, 'contributor', change.contributorId);
    await mustBeListed(tx, change);
    const wordIds = await wordsCalled(tx, house, change.addWords ?? []);
    const picturedIds = change.addPictured ? await picturedCalled(tx, change.addPictured) : [];
    const intakes = await withCompanions(tx, change.itemIds);
    if (!intakes.length) throw new Refusal('not found', 'There is no such item.');
    for (const { intakeId } of intakes) await lockIntake(tx, intakeId);
    const all = intakes.flatMap(({ ids }) => ids);
    // Looked at under the locks: nobody changes it in between.
    if (change.was && (await changedSince(tx, all, change.was)))
      throw new Refusal(
        'conflict',
        'Somebody else has just changed the credit of some of these. Look again, then say what you want.',
      );
    const replaces = LINES.some((line) => change[line] !== undefined);
    const before = replaces ? await creditBefore(tx, all) : [];
    for (const { intakeId, ids } of intakes) {
      if (change.contributorId !== undefined && (await theIntake({ db: tx }, intakeId)).state === 'filing')
        throw new Refusal('conflict', 'This card is being filed: wait until its copies tally.');
      if (replaces || change.standing) await setItemCredit(tx, ids, change);
      await changeItemWords(tx, ids, wordIds, change.removeWordIds ?? []);
      await changePictured(tx, ids, picturedIds, change.removePicturedIds ?? []);
      if (change.contributorId !== undefined) await setItemContributor(tx, ids, change.contributorId);
      if (change.description !== undefined) await setDescription(tx, ids, change.description);
      await touchChosen(tx, intakeId, ids);
      if (change.contributorId !== undefined) await refreshTotals(tx, intakeId);
      const text = `${ids.length} ${ids.length === 1 ? 'item' : 'items'}: ${await changeInWords(tx, change, wordIds, before)}.`;
      const data = { change: { ...change, itemIds: ids }, before };
      await record(tx, { at: house.clock(), kind: 'credit', intakeId, who, text, data });
    }
    if (change.addPictured ?? change.removePicturedIds)
      await keepUnshown(
        tx,
        intakes.map(({ intakeId }) => intakeId),
      );
    await followItems(tx, 'select unnest($1::int[]) as item_id', [all]);
    if (change.addPictured) await tell(tx, { type: 'people' });
    return { items: all.length, following: await following(tx) };
  });
}

/** What an item says of credit in one value each, so that a change replaces it. */
const LINES = ['creditLine', 'copyrightNotice', 'termsId', 'locationId'] as const;

/** @throws Refusal when terms or location are none of the house's. */
export async function mustBeListed(
  tx: Db,
  { termsId, locationId }: { termsId?: number | null; locationId?: number | null },
): Promise<void> {
  const { terms, location } = await namesFor(tx, termsId, locationId);
  if (termsId && terms === null) throw new Refusal('not found', 'There are no such terms.');
  if (locationId && location === null) throw new Refusal('not found', 'There is no such location.');
}

/** A change of credit as the log tells it. */
export async function changeInWords(
  tx: Db,
  change: Pick<CreditChange, 'creditLine' | 'copyrightNotice' | 'termsId' | 'locationId' | 'removeWordIds'> &
    Partial<Pick<CreditChange, 'contributorId' | 'description' | 'standing' | 'addPictured' | 'removePicturedIds'>>,
  wordIds: readonly number[],
  before: readonly CreditBefore[],
): Promise<string> {
  const { terms, location } = await namesFor(tx, change.termsId, change.locationId);
  // What it was, where all of it was the same.
  const was = before.length === 1 ? before[0]! : null;
  const names = was && (await namesFor(tx, was.termsId, was.locationId));
  const from = (value: string | null | undefined) => (was ? ` (was ${quoted(value)})` : ' (they differed)');
  const texts = async (ids: readonly number[]) => (await wordsOfIds(tx, ids)).map(({ text }) => text).join(', ');
  const contributor = change.contributorId ? await nameOf(tx, 'contributor', change.contributorId) : null;
  return [
    change.contributorId !== undefined && `by ${contributor ?? 'whom the slip says'}`,
    change.creditLine !== undefined && `credited ${quoted(change.creditLine)}${from(was?.creditLine)}`,
    change.copyrightNotice !== undefined && `copyright ${quoted(change.copyrightNotice)}${from(was?.copyrightNotice)}`,
    change.termsId !== undefined && `terms ${quoted(terms)}${from(names?.terms)}`,
    change.locationId !== undefined && `at ${quoted(location)}${from(names?.location)}`,
    wordIds.length > 0 && `words ${await texts(wordIds)}`,
    change.removeWordIds?.length && `without the words ${await texts(change.removeWordIds)}`,
    change.addPictured?.length && `showing ${change.addPictured.join(', ')}`,
    change.removePicturedIds?.length && `${change.removePicturedIds.length} people not shown`,
    change.standing && standingInWords(change.standing),
    change.description !== undefined && `described ${quoted(change.description)}`,
  ]
    .filter(Boolean)
    .join('; ');
}

/** Which of the two stands where a file says something else than the house. */
function standingInWords(standing: NonNullable<CreditChange['standing']>): string {
  const words = { ours: 'what the house says', theirs: 'what the file says' };
  const said = Object.entries(standing).map(
    ([field, whose]) => `${standardOf(field as Field).name} ${whose ? words[whose] : 'to be asked again'}`,
  );
  return `in the files: ${said.join(', ')}`;
}

const MOST_SHOWN = 1000;

/** Where a person is shown and where its copies went: what whoever withdraws consent asks. */
export async function whereShown(house: House, picturedId: number): Promise<ShownAnswer> {
  const shown = await shownWhere(house.db, picturedId, MOST_SHOWN);
  const people = await houseList(house.db, 'pictured');
  const person = people.find(({ id }) => id === picturedId);
  if (!person) throw new Refusal('not found', 'There is no such person in the list.');
  return { items: person.items, shown };
}
