/*
 * What the commands of the drive have in common.
 */
import { setTimeout as sleep } from 'node:timers/promises';
import { WrongUse } from '../cli/output.js';
import { placesStanding } from '../driving/index.js';
import type { House } from '../house/index.js';

export interface Out {
  readonly json?: boolean;
}

export interface Dry extends Out {
  readonly dry?: boolean;
}

/** So many files are meant by one command at most. */
export const MOST = 20_000;

export function number(text: string): number {
  if (!/^\d{1,9}$/.test(text)) throw new WrongUse(`${text} is no number.`);
  return Number(text);
}

export async function mustBe(house: House, placeId: string): Promise<void> {
  const places = await placesStanding(house);
  if (!places.some(({ id }) => id === placeId))
    throw new WrongUse(`There is no place ${placeId}. Places: ${places.map(({ id }) => id).join(', ')}.`);
}

/** Does it, or waits while a station that was quicker does. */
export async function untilOver(
  signal: AbortSignal,
  work: () => Promise<unknown>,
  goesOn: () => Promise<boolean>,
): Promise<void> {
  for (await work(); !signal.aborted && (await goesOn()); await work())
    // Ends early when told to stop.
    await sleep(500, undefined, { signal }).catch(() => undefined);
}
