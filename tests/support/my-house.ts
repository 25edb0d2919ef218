import { join } from 'node:path';

interface MyHouse {
  /** Address of the interface, and of the panel that stands in for the hand at the reader. */
  readonly base: string;
  readonly panel: string;
  readonly folder: string;
}

/** The house of this worker. */
const mine = (): MyHouse => JSON.parse(process.env[`TALLY_HOUSE_${process.env['TEST_PARALLEL_INDEX'] ?? '0'}`]!) as MyHouse;

export const base = (): string => mine().base;
export const panel = (): string => mine().panel;
export const inHouse = (...parts: string[]): string => join(mine().folder, ...parts);
