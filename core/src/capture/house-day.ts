import { wallClockMs, type WallClock } from './wall-clock.js';

const DAY_MS = 86_400_000;

/** When a house's day begins, `HH:mm`, midnight to noon. */
export const DAY_BEGINS = /^(0\d|1[0-2]):[0-5]\d$/;
export const MIDNIGHT = '00:00';

/** Milliseconds after midnight at which the house's day begins. */
export const dayBeginsMs = (begins: string): number => (Number(begins.slice(0, 2)) * 60 + Number(begins.slice(3, 5))) * 60_000;

/**
 * The day a moment counts to where the day begins at another hour than midnight: half past two of the 19th is the night
 * of the 18th. The moment itself stays what it is.
 * @param begins `HH:mm`. @returns `yyyy-MM-dd`.
 */
export function houseDay(local: WallClock, begins: string): string {
  const day = local.slice(0, 10);
  if (begins === MIDNIGHT || local.slice(11, 16) >= begins) return day;
  return new Date(wallClockMs(`${day}T00:00:00`) - DAY_MS).toISOString().slice(0, 10);
}
