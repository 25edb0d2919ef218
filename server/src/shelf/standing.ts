import type { NewStanding, StandingChange, StandingView } from '@tally/contract';
import { newerThan, newestFiled, printQuestion } from '@tally/core/find';
import { type Db, inTransaction } from '../db/database.js';
import { type House, record, Refusal, tell } from '../house/index.js';
import { answered, understood } from './asking.js';
import { shelfNow } from './kept-shelf.js';
import {
  holdStanding,
  insertStanding,
  removeStanding,
  seenStanding,
  standingCalled,
  type StandingLine,
  standingQuestions,
  updateStanding,
} from './store/standing.js';

const NO_SUCH = 'There is no such standing question.';

/** A standing question with what answers it now. */
async function viewOf(house: House, { seenTo, seenId, ...line }: StandingLine): Promise<StandingView> {
  const { question, view } = await understood(house, line.question);
  const { shelf, slots } = await answered(house, question);
  return { ...line, question: view, items: slots.length, fresh: newerThan(shelf, slots, { atMs: seenTo.getTime(), id: seenId }) };
}

export async function standingViews(house: House): Promise<StandingView[]> {
  const lines = await standingQuestions(house.db);
  return Promise.all(lines.map((line) => viewOf(house, line)));
}

/** Keeps a question under a name. What answers it by now is not new. */
export async function keepQuestion(house: House, standing: NewStanding, who: string): Promise<StandingView> {
  const { question } = await understood(house, standing.question);
  const seen = await seenNow(house);
  const id = await inTransaction(house.db, async (tx) => {
    await nobodyElseCalled(tx, standing.name, null);
    const made = await insertStanding(tx, { ...standing, question: printQuestion(question), ...seen, madeBy: who });
    await said(house, tx, who, `Standing question “${standing.name}” kept.`);
    return made;
  });
  return theStanding(house, id);
}

export async function changeStanding(house: House, id: number, change: StandingChange, who: string): Promise<StandingView> {
  const asked = change.question === undefined ? undefined : printQuestion((await understood(house, change.question)).question);
  await inTransaction(house.db, async (tx) => {
    const was = await held(tx, id);
    if (was.revision !== change.revision)
      throw new Refusal('conflict', 'Somebody else has just changed this question. Look again, then say what you want.');
    const next = { ...was, ...change, question: asked ?? was.question };
    if (next.name !== was.name) await nobodyElseCalled(tx, next.name, id);
    await updateStanding(tx, next);
    await said(house, tx, who, `Standing question “${next.name}” changed.`);
  });
  return theStanding(house, id);
}

/** Somebody has looked at what answers it. */
export async function lookAtStanding(house: House, id: number): Promise<StandingView> {
  const seen = await seenNow(house);
  await inTransaction(house.db, async (tx) => {
    await held(tx, id);
    await seenStanding(tx, id, seen);
    await tell(tx, { type: 'shelf' });
  });
  return theStanding(house, id);
}

export async function endStanding(house: House, id: number, who: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    const { name } = await held(tx, id);
    await removeStanding(tx, id);
    await said(house, tx, who, `Standing question “${name}” is asked no more.`);
  });
}

/** Everything that is filed by now has been seen. */
async function seenNow(house: House): Promise<{ seenTo: Date; seenId: number }> {
  const { atMs, id } = newestFiled(await shelfNow(house));
  return { seenTo: new Date(atMs), seenId: id };
}

async function theStanding(house: House, id: number): Promise<StandingView> {
  const line = (await standingQuestions(house.db)).find((one) => one.id === id);
  if (!line) throw new Refusal('not found', NO_SUCH);
  return viewOf(house, line);
}

async function held(tx: Db, id: number): Promise<StandingLine> {
  const line = await holdStanding(tx, id);
  if (!line) throw new Refusal('not found', NO_SUCH);
  return line;
}

async function nobodyElseCalled(tx: Db, name: string, id: number | null): Promise<void> {
  const other = await standingCalled(tx, name);
  if (other !== null && other !== id) throw new Refusal('conflict', `There is a standing question “${name}” already.`);
}

async function said(house: House, tx: Db, who: string, text: string): Promise<void> {
  await record(tx, { at: house.clock(), kind: 'question', intakeId: null, who, text });
  await tell(tx, { type: 'shelf' });
}
