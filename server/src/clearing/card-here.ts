import { isFolder } from '../drive/list-card.js';
import { liesOn } from '../drive/card-identity.js';
import { type House, type IntakeRow, Refusal, theIntake } from '../house/index.js';

/**
 * Where the card of an intake lies, at this station.
 * @param at a folder where somebody says it lies, in no reader. @throws Refusal when it is not there.
 */
export async function cardHere(house: House, intakeId: number, at: string | null): Promise<IntakeRow> {
  const intake = await theIntake(house, intakeId);
  if (at !== null) {
    if (!(await isFolder(at))) throw new Refusal('not possible now', `${at} is not there: only what is there can be cleared.`);
    return { ...intake, sourcePath: at };
  }
  const isHere = intake.present && intake.station === house.settings.station;
  if (!isHere || !(await liesOn(intake.sourcePath, intake.device))) {
    throw new Refusal('not possible now', 'The card is not in the reader: only what is there can be cleared.');
  }
  return intake;
}
