import { intakeById, type IntakeRow } from './store/intakes.js';
import { type House, Refusal } from './house.js';

/** An intake that must exist. */
export async function theIntake(house: Pick<House, 'db'>, intakeId: number): Promise<IntakeRow> {
  const intake = await intakeById(house.db, intakeId);
  if (!intake) throw new Refusal('not found', 'There is no such intake.');
  return intake;
}
