import type { Settings } from './settings.js';

/** What time it is. The only source of time for use cases. */
export type Clock = () => Date;

export function clockOf(setting: Settings['clock']): Clock {
  if (!setting) return () => new Date();
  const starts = Date.parse(setting.startsAt);
  const set = Date.parse(setting.setAt);
  return setting.frozen ? () => new Date(starts) : () => new Date(starts + (Date.now() - set));
}
