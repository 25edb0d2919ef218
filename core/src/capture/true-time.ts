import { casual, GB } from 'chrono-node/en';
import { parseWallClock, type WallClock } from './wall-clock.js';

/** In which order a house writes a date in figures. */
export const DATE_ORDERS = ['day first', 'month first'] as const;
export type DateOrder = (typeof DATE_ORDERS)[number];

/**
 * Reads a true time as people type it, filling in what they leave out from the camera's own: `14:05`, `19 April 2026
 * 6:05`, `19/04/2026 06:05`, `6:05 pm`. What is in figures only is read in the house's order of day and month.
 * @returns null when it is no time, or when something of it is not understood.
 */
export function readTrueTime(text: string, cameraLocal: WallClock, order: DateOrder = 'day first'): WallClock | null {
  const typed = text.trim().replace(/\s+/g, ' ');
  // As cameras and programs write it, to the second.
  if (/^\d{4}[-:]\d/.test(typed)) return /\d[T ]+\d{1,2}:\d{2}/.test(typed) ? parseWallClock(typed) : null;
  const reader = order === 'day first' ? GB : casual;
  // The reference stands for the camera's wall clock: no zone has a say in it.
  const [found, ...more] = reader.parse(typed, { instant: new Date(`${cameraLocal.slice(0, 19)}Z`), timezone: 0 });
  if (!found || more.length || found.end || found.text.length !== typed.length || !found.start.isCertain('hour')) return null;
  const part = (name: 'year' | 'month' | 'day' | 'hour' | 'minute' | 'second') =>
    String(found.start.get(name) ?? 0).padStart(name === 'year' ? 4 : 2, '0');
  return parseWallClock(`${part('year')}-${part('month')}-${part('day')} ${part('hour')}:${part('minute')}:${part('second')}`);
}
