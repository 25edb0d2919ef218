import { WrongUse } from '../cli/output.js';
import type { House } from './house.js';
import { intakesWhere } from './store/intakes.js';

/** The intake with a number such as 2026-0412. @throws WrongUse when there is none. */
export async function intakeNumbered(house: House, number: string): Promise<number> {
  const [intake] = await intakesWhere(house.db, 'i.number = $1', [number]);
  if (!intake) throw new WrongUse(`There is no intake ${number}.`);
  return intake.id;
}
