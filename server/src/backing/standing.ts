import type { BackupsNow } from '@tally/contract';
import type { House } from '../house/index.js';
import { calledBy, wishedBy } from './destinations.js';
import { goodSince, lastGood, lastMade } from './store.js';

const HOUR_MS = 3_600_000;
/** A night may fail, and the next one is on its way. */
const OLD_HOURS = 36;
/** A drive that is taken elsewhere may be away for so long. */
const AWAY_DAYS = 8;

/** How the house stands with its backups, for the desk: what somebody has to know, in one sentence. */
export async function backupsNow(house: House): Promise<BackupsNow> {
  const { db, settings } = house;
  const [good, apart, made] = await Promise.all([lastGood(db, false), lastGood(db, true), lastMade(db)]);
  const lastAt = (apart ?? good)?.toISOString() ?? null;
  if (settings.backup === 'by hand') return { lastAt, problem: null };
  const hours = good && Math.floor((house.clock().getTime() - good.getTime()) / HOUR_MS);
  const lately = await goodSince(db, new Date(house.clock().getTime() - AWAY_DAYS * 24 * HOUR_MS));
  // What somebody tried elsewhere by hand and did not work was told to them.
  const wished = wishedBy(settings);
  const failed = made.filter(({ to, problem }) => problem !== null && wished.includes(to) && !lately.has(to));
  const why = failed.map(({ to, problem }) => `${calledBy(settings, to)}: ${problem}`).join('; ');
  if (hours === null) return { lastAt, problem: failed.length ? `The house could not be backed up. ${why}.` : null };
  if (hours >= OLD_HOURS) return { lastAt, problem: `The last backup is ${daysWords(hours)} old.${why ? ` ${why}.` : ''}` };
  if (failed.length) return { lastAt, problem: `The house is not backed up everywhere. ${why}.` };
  if (!apart && settings.systemDisk === undefined)
    return {
      lastAt,
      problem:
        'All backups stand on the server’s own disk: they are gone when that is. Name another place for them in the settings (backup.to).',
    };
  return { lastAt, problem: null };
}

const daysWords = (hours: number): string => (hours < 72 ? `${hours} hours` : `${Math.floor(hours / 24)} days`);

/** The same for whatever watches the server, without names: nobody signs in for that. */
export async function healthOfBackups(house: House): Promise<{ backup: 'good' | 'look' | 'by hand'; backupAt: string | null }> {
  const { lastAt, problem } = await backupsNow(house);
  return { backup: house.settings.backup === 'by hand' ? 'by hand' : problem === null ? 'good' : 'look', backupAt: lastAt };
}
