import { EXIT, jsonLine, say, WHO } from '../cli/output.js';
import { readIntake } from './read-items.js';
import { receiveCard } from './receive.js';
import { type House, theIntake } from '../house/index.js';
import { changeSlip } from '../slip/index.js';
import { type Slip, slipIds } from '../people/index.js';

/** `tally receive FOLDER`: opens and reads an intake without filing anything, so that it can be judged and split first. */
export async function receiveCommand(
  house: House,
  folder: string,
  options: Slip & { label?: string; json?: boolean },
  signal: AbortSignal,
): Promise<number> {
  const slip = await slipIds(house, options);
  const id = await receiveCard(house, folder, WHO);
  await readIntake(house, id, signal);
  const change = { ...slip, ...(options.label ? { cardLabel: options.label } : {}) };
  if (Object.keys(change).length) await changeSlip(house, id, change, WHO);
  const intake = await theIntake(house, id);
  const { number, items, bytes, alreadyFiled, state } = intake;
  if (options.json) jsonLine({ number, items, bytes, alreadyFiled, state });
  else say(`Intake ${number}: ${items} items, ${alreadyFiled} already filed.`);
  return EXIT.done;
}
