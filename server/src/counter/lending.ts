import { addLoan, addThing, endLoan, labelOfThing, listThings, loansOf } from './store.js';
import type { LendingList, LendRequest, LoanHistory, NewThing, ThingKey } from '@tally/contract';
import { type Db, inTransaction } from '../db/database.js';
import { moveCard } from './trays.js';
import { mustExist, nameOf } from '../people/index.js';
import { cardMoves, type House, houseTime, record, Refusal, setOurs, tell } from '../house/index.js';

export const today = (house: Pick<House, 'settings' | 'clock'>): string => houseTime(house, house.clock()).slice(0, 10);

/** Everything of the house that is lent, what is out first, the longest overdue on top. */
export async function lendingList(house: House, outOnly = false): Promise<LendingList> {
  return { things: await listThings(house.db, today(house), outOnly) };
}

/** Adds a card or another thing to the lending list. @throws Refusal when its label is taken. */
export async function makeThing(house: House, thing: NewThing, who: string): Promise<ThingKey> {
  return inTransaction(house.db, async (tx) => {
    const at = house.clock();
    const key = await addThing(tx, thing, at);
    if (!key) throw new Refusal('conflict', `Something carries the label ${thing.label} already.`);
    await record(tx, {
      at,
      kind: 'thing added',
      intakeId: null,
      who,
      text: `${thing.label} (${thing.kind}) is on the lending list.`,
    });
    await tell(tx, { type: 'desk' });
    return key;
  });
}

/** Everybody takes things in one order, whatever the order they were asked for in: two people never wait for each other. */
const inOrder = (things: readonly ThingKey[]): ThingKey[] =>
  [...things].sort((a, b) => (a.kind === b.kind ? a.id - b.id : a.kind < b.kind ? -1 : 1));

/** A thing's label and name. @throws Refusal when there is none. */
async function labelOf(db: Db, key: ThingKey): Promise<string> {
  const label = await labelOfThing(db, key);
  if (label === null) throw new Refusal('not found', `There is no such ${key.kind}.`);
  return label;
}

/**
 * Lends things to somebody, all of them or none. A card may go out when it is out and at home, or waits to be given back.
 * @throws Refusal with the reason.
 */
export async function lend(house: House, { things, contributorId, due, note }: LendRequest, who: string): Promise<void> {
  if (due !== null && due < today(house)) throw new Refusal('conflict', `${due} is over: a loan is due today or later.`);
  await inTransaction(house.db, async (tx) => {
    await mustExist(tx, 'contributor', contributorId);
    const name = (await nameOf(tx, 'contributor', contributorId))!;
    const at = house.clock();
    const labels: string[] = [];
    for (const key of inOrder(things)) {
      const label = await labelOf(tx, key);
      labels.push(label);
      if (key.kind === 'card') await cardGoesOut(tx, house, key.id);
      if (!(await addLoan(tx, key, { contributorId, at, by: who, due, note })))
        throw new Refusal('conflict', `${label} is lent already.`);
    }
    const until = due ? `, due ${due}` : '';
    await record(tx, { at, kind: 'lent', intakeId: null, who, text: `${labels.join(', ')} lent to ${name}${until}.` });
    await tell(tx, { type: 'desk' });
  });
}

async function cardGoesOut(tx: Db, house: House, cardId: number): Promise<void> {
  await cardMoves(tx, house, cardId, 'out', (card, why) => `${card.label ?? card.volume} cannot be lent. ${why}`);
  await setOurs(tx, cardId);
}

/**
 * Lent things are back. Cards are handed in, unless they are unused: then they hold nothing new and may be lent again.
 * @throws Refusal when one is not lent.
 */
export async function takeBack(house: House, things: readonly ThingKey[], unused: boolean, who: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    const at = house.clock();
    for (const key of inOrder(things)) {
      const label = await labelOf(tx, key);
      const loan = await endLoan(tx, key, at, who);
      if (!loan) throw new Refusal('conflict', `${label} is not lent.`);
      await record(tx, { at, kind: 'back', intakeId: null, who, text: `${label} is back from ${loan.name}.` });
      if (key.kind === 'card' && !unused) await moveCard({ ...house, db: tx, clock: () => at }, key.id, 'in', who);
    }
    await tell(tx, { type: 'desk' });
  });
}

export const loanHistory = (house: House, key: ThingKey): Promise<LoanHistory> => loansOf(house.db, key);
