import type { ClearanceView, ClearAnswer, ClearRequest, LetGoAnswer, LetGoRequest, RestoreAnswer } from '@tally/contract';
import { setTimeout as sleep } from 'node:timers/promises';
import { inTransaction } from '../db/database.js';
import { isHeld } from '../db/locks.js';
import { type House, Refusal, theIntake } from '../house/index.js';
import { clearanceNow } from './clearance.js';
import { clearCard } from './clear-card.js';
import { letGo } from './let-go.js';
import { restoreToCard } from './restore.js';
import { addWork, heldAs, takeBackWork, type WorkKind, workById } from './store/card-work.js';

/*
 * What somebody wants of a card, wherever they sit: done here when the card lies here, else asked of the station that has
 * it in its reader.
 */

/** A station that is on takes what it is asked for within this. */
const TAKEN_WITHIN_MS = 10_000;
const LOOK_MS = 150;
const LOOK_SELDOM_MS = 1_000;
/** So often in a row nobody held the card of something that is being done: its station has gone. */
const DESERTED_LOOKS = 20;

/** May the card of an intake be cleared, as it is now? */
export async function clearanceOf(
  house: House,
  intakeId: number,
  full: boolean,
  items?: readonly number[],
): Promise<ClearanceView> {
  if (await isElsewhere(house, intakeId))
    return ask<ClearanceView>(house, 'look', intakeId, intakeId, { full, items: items ?? null }, '');
  return clearanceNow(house, intakeId, full, items ?? null);
}

export async function clearAt(house: House, intakeId: number, request: ClearRequest, who: string): Promise<ClearAnswer> {
  if (await isElsewhere(house, intakeId)) return ask<ClearAnswer>(house, 'clear', intakeId, intakeId, request, who);
  return clearCard(house, intakeId, request, { who });
}

/** Puts the files of an intake back to the card of another one, or its own. */
export async function restoreAt(house: House, intakeId: number, cardOf: number, who: string): Promise<RestoreAnswer> {
  if (await isElsewhere(house, cardOf)) return ask<RestoreAnswer>(house, 'restore', cardOf, intakeId, {}, who);
  return restoreToCard(house, intakeId, cardOf, { who });
}

/** Lets a card go, so that it may be pulled. */
export async function letGoAt(house: House, intakeId: number, request: LetGoRequest, who: string): Promise<LetGoAnswer> {
  if (await isElsewhere(house, intakeId)) return ask<LetGoAnswer>(house, 'let go', intakeId, intakeId, request, who);
  return letGo(house, intakeId, request, { who });
}

async function isElsewhere(house: House, intakeId: number): Promise<boolean> {
  const { present, station } = await theIntake(house, intakeId);
  return present && station !== house.settings.station;
}

/** Asks the station that has a card, and waits for its answer. @throws Refusal as it refuses, or when it does not answer. */
async function ask<T>(
  house: House,
  kind: WorkKind,
  intakeId: number,
  ofIntakeId: number,
  what: unknown,
  who: string,
): Promise<T> {
  const { db } = house;
  const { station } = await theIntake(house, intakeId);
  const id = await inTransaction(db, async (tx) => {
    const work = await addWork(tx, { kind, intakeId, ofIntakeId, station, ask: what, who }, 'waiting');
    await house.jobs.card(tx, work, station);
    return work;
  });
  let [waited, deserted] = [0, 0];
  for (;;) {
    const work = await workById(db, id);
    if (work?.state === 'done') return work.answer as T;
    if (work?.state === 'refused')
      throw new Refusal(work.problemKind as Refusal['kind'], work.problem ?? 'It could not be done.');
    if (waited >= TAKEN_WITHIN_MS) {
      const isTaken = work?.state === 'doing' || (work !== null && !(await takeBackWork(db, id)));
      if (!isTaken)
        throw new Refusal(
          'not possible now',
          `${station}, which has the card in its reader, does not answer. Is it switched on? Nothing was done.`,
        );
      // Whoever does something to a card holds it.
      deserted = (await isHeld(db, 'card', heldAs({ kind, id, intakeId }))) ? 0 : deserted + 1;
      if (deserted === DESERTED_LOOKS)
        throw new Refusal(
          'not possible now',
          `${station} does not answer any more. What it began is finished, or said, when it is on again.`,
        );
    }
    const wait = waited < TAKEN_WITHIN_MS ? LOOK_MS : LOOK_SELDOM_MS;
    await sleep(wait);
    waited += wait;
  }
}
