import { relative } from 'node:path';
import { isFolder } from '../drive/list-card.js';
import { liesOn } from '../drive/card-identity.js';
import { adoptedAt, type House, type IntakeRow, Refusal, theIntake } from '../house/index.js';

/**
 * Does something to a card that nobody else does meanwhile: it is neither filed nor taken for another one.
 * @param intakeId whose card it is. @throws Refusal when somebody is at it already.
 */
export async function holdingCard<T>(
  house: House,
  intakeId: number,
  signal: AbortSignal,
  run: (signal: AbortSignal) => Promise<T>,
): Promise<T> {
  const answers: T[] = [];
  const ours = await house.locks.hold('card', intakeId, signal, async (inner) => void answers.push(await run(inner)));
  if (!ours) throw new Refusal('conflict', 'Somebody clears or restores this card just now: wait until that is done.');
  return answers[0]!;
}

/**
 * Where the card of an intake lies, at this station.
 * @param at a folder where somebody says it lies, in no reader. @throws Refusal when it is not there.
 */
export async function cardHere(house: House, intakeId: number, at: string | null): Promise<IntakeRow> {
  const intake = await theIntake(house, intakeId);
  if ((await adoptedAt(house.db, intakeId)) !== null)
    throw new Refusal('conflict', 'It was adopted where it stands: no card brought it, and nothing is cleared there.');
  if (at !== null) {
    const place = house.settings.places.find(({ root }) => !relative(root, at).startsWith('..'));
    if (place) throw new Refusal('conflict', `${at} lies on ${place.name}: nothing is cleared there.`);
    if (!(await isFolder(at))) throw new Refusal('not possible now', `${at} is not there: only what is there can be cleared.`);
    return { ...intake, sourcePath: at };
  }
  const isHere = intake.present && intake.station === house.settings.station;
  if (!isHere || !(await liesOn(intake.sourcePath, intake.device))) {
    throw new Refusal('not possible now', 'The card is not in the reader: only what is there can be cleared.');
  }
  return intake;
}
