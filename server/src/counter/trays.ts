import type { ScanAnswer, Tray } from '@tally/contract';
import { nextTray } from '@tally/core/trays';
import { type Db, inTransaction } from '../db/database.js';
import { endLoan, kitOfLabel, lockLabels } from './store.js';
import {
  cardById,
  cardMoves,
  cardOfLabel,
  type CardRow,
  happens,
  type House,
  houseTime,
  intakeById,
  isKnownCard,
  lockIntake,
  record,
  Refusal,
  setLabel,
  setSlip,
  tell,
  theIntake,
} from '../house/index.js';

const named = (card: Pick<CardRow, 'label' | 'volume'>) => `Card ${card.label ?? card.volume}`;

/** A card that must exist. */
async function theCard(db: Db, cardId: number): Promise<CardRow> {
  const card = await cardById(db, cardId);
  if (!card) throw new Refusal('not found', 'There is no such card.');
  return card;
}

/**
 * Moves a card to another tray, if the process allows it. Handed in, it is lent no longer; given back, its intake is closed.
 * @throws Refusal with the reason when it may not go there.
 */
export async function moveCard(house: House, cardId: number, to: Tray, who: string): Promise<CardRow> {
  return inTransaction(house.db, async (tx) => {
    const card = await cardMoves(tx, house, cardId, to, (one, why) => `${named(one)} stays where it is. ${why}`);
    if (!card) throw new Refusal('not found', 'There is no such card.');
    if (card.tray === to) return card;
    const at = house.clock();
    const intakeId = card.intake?.id ?? null;
    const loan = to === 'in' ? await endLoan(tx, { kind: 'card', id: cardId }, at, who) : null;
    const says = SAYS[to](loan ? `, lent to ${loan.name},` : '');
    await record(tx, { at, kind: KINDS[to], intakeId, who, text: `${named(card)}${says}` });
    return theCard(tx, cardId);
  });
}

const KINDS: Readonly<Record<Tray, string>> = {
  in: 'handed in',
  'on the desk': 'moved',
  'to give back': 'moved',
  out: 'given back',
};

const SAYS: Readonly<Record<Tray, (lent: string) => string>> = {
  in: (lent) => `${lent} lies in the tray “in”.`,
  'on the desk': () => ' lies on the desk.',
  'to give back': () => ' waits to be given back.',
  out: () => ' given back.',
};

/** A lent card came back by being read: its loan ends, and whoever had it is who handed it in, unless somebody said so. */
export async function cameBack(tx: Db, house: House, cardId: number, intakeId: number, who: string): Promise<void> {
  const loan = await endLoan(tx, { kind: 'card', id: cardId }, house.clock(), who);
  if (!loan) return;
  const intake = await intakeById(tx, intakeId);
  if (intake?.state === 'open' && !intake.contributor) await setSlip(tx, intakeId, { contributorId: loan.contributorId });
}

/**
 * Says which card this is by the label on its tape. A known card that is out, or was handed in and not read, is taken up
 * again: a card that was formatted in its camera is told from a new one by nothing else.
 * @throws Refusal when another thing, or a card that is being worked on, carries the label.
 */
export async function sayLabel(tx: Db, house: House, intakeId: number, label: string | null, who: string): Promise<void> {
  const intake = (await intakeById(tx, intakeId))!;
  const { card } = intake;
  if (label !== null) await lockLabels(tx);
  if (label !== null && (await kitOfLabel(tx, label)))
    throw new Refusal('conflict', `${label} is the label of something else that is lent.`);
  const known = label === null ? null : await cardOfLabel(tx, label);
  if (!known || known.id === card.id) {
    await setLabel(tx, card.id, label);
    return;
  }
  const busy = known.intake && (known.intake.present || ['open', 'filing', 'needs attention'].includes(known.intake.state));
  if (busy || card.label !== null) throw new Refusal('conflict', `Another card carries the label ${known.label}.`);
  const was = known.traySince;
  await isKnownCard(tx, house, card.id, known.id);
  await cameBack(tx, house, known.id, intakeId, who);
  const lay = known.tray === 'in' ? 'handed in' : 'last here';
  await record(tx, {
    at: house.clock(),
    kind: 'card known',
    intakeId,
    who,
    text: `This is card ${known.label}, ${lay} ${houseTime(house, was).slice(0, 10)}.`,
  });
}

/**
 * What the scan of a label at the counter does: what is out is handed in, what is done is given back, what is being
 * worked on opens. `move` false only opens.
 */
export async function scanLabel(house: House, label: string, move: boolean, who: string): Promise<ScanAnswer> {
  const none = { label, intakeId: null, cardId: null, from: null, to: null };
  const kit = await kitOfLabel(house.db, label);
  if (kit) {
    const key = { kind: kit.kind, id: kit.id };
    const loan = move ? await endLoan(house.db, key, house.clock(), who) : null;
    if (!loan) return { ...none, what: 'thing', says: `${label} is a ${kit.kind} of the house, and here.` };
    await record(house.db, {
      ...{ at: house.clock(), kind: 'back', intakeId: null, who },
      text: `${label} is back from ${loan.name}.`,
    });
    await tell(house.db, { type: 'desk' });
    return { ...none, what: 'back', says: `${label} is back from ${loan.name}.` };
  }
  const card = await cardOfLabel(house.db, label);
  if (!card) return { ...none, what: 'unknown', says: `No card has the label ${label} yet.` };
  const known = { ...none, label: card.label ?? label, cardId: card.id, intakeId: card.intake?.id ?? null };
  const to = move ? nextTray(card) : null;
  if (to !== null) {
    await moveCard(house, card.id, to, who);
    const says = to === 'in' ? `${card.label} is handed in.` : `${card.label} is given back.`;
    return { ...known, what: 'moved', from: card.tray, to, says };
  }
  if (card.intake) return { ...known, what: 'open', says: `${card.label} opens.` };
  return { ...known, what: 'waits', says: `${card.label} ${card.tray === 'in' ? 'is handed in and was' : 'was'} not read yet.` };
}

/** Hands the card back to its owner: it leaves the trays. */
export async function giveBack(house: House, intakeId: number, who: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    const { tray, taken, comparing, card } = await theIntake({ db: tx }, intakeId);
    // By the rule of the trays, one after the other: whoever gives it back from the counter need not move it three times.
    const way: Tray[] = tray === 'in' ? ['on the desk', 'to give back'] : tray === 'on the desk' ? ['to give back'] : [];
    for (const to of way) await happens(tx, house, intakeId, { what: 'moved', to, taken, comparing });
    await moveCard({ ...house, db: tx }, card.id, 'out', who);
  });
}

/** It was not given back after all: it waits for that again. For a moment of somebody who pressed too soon. */
export async function notGivenBack(house: House, intakeId: number, who: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    const { card } = await happens(tx, house, intakeId, { what: 'not given back' });
    const text = `${named(card)} was not given back after all.`;
    await record(tx, { at: house.clock(), kind: 'moved', intakeId, who, text });
  });
}
