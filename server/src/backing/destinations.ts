import { BACKUP_FOLDER } from '@tally/core/drive';
import { stat } from 'node:fs/promises';
import { isAbsolute, join } from 'node:path';
import { isOnSystemDisk, standingOf } from '../drive/place.js';
import { placesStanding } from '../driving/index.js';
import { BackupError } from './errors.js';
import type { House } from '../house/index.js';

/** Where backups go. */
export interface Destination {
  /** As the settings name it, or would. */
  readonly to: string;
  /** The folder that holds them; null: it is not there. */
  readonly folder: string | null;
  readonly problem: string | null;
  /** @throws BackupError when the place is not there any more: what stands at its path then is no place of ours */
  readonly mustStand: () => Promise<void>;
  /** Is it on another disk than the server's? What lies on that one is gone with it. */
  readonly apart: boolean;
}

const DATA = 'the data folder';

/** Where backups go as the settings say; else to the data folder, and every place but the shared drive, which everybody reads. */
export function wishedBy({ backup, places }: House['settings']): string[] {
  const said = backup === 'by hand' ? undefined : backup.to;
  return said ?? [DATA, ...places.flatMap(({ id, kind }) => (kind === 'shared drive' ? [] : [id]))];
}

/** What people call a destination. */
export const calledBy = ({ places }: House['settings'], to: string): string => places.find(({ id }) => id === to)?.name ?? to;

/** Where this house's backups go, and whether that is there. @param given folders or ids of places, instead of those of the settings */
export async function destinationsOf(house: House, given?: readonly string[]): Promise<Destination[]> {
  const { settings } = house;
  const places = await placesStanding(house);
  const wished = given ?? wishedBy(settings);
  return Promise.all(
    wished.map(async (to): Promise<Destination> => {
      const place = places.find(({ id }) => id === to);
      const mustStand = async () => {
        const now = place && (await standingOf(place, place.mark));
        if (now?.online === false) throw new BackupError(now.problem);
      };
      const not = (problem: string): Destination => ({ to, folder: null, problem, apart: false, mustStand });
      if (place?.standing.online === false) return not(place.standing.problem);
      const root = place ? place.root : to === DATA ? settings.dataDir : to;
      if (!isAbsolute(root)) return not('is neither a place nor the path of a folder');
      const there = await stat(root).catch(() => null);
      if (!there?.isDirectory()) return not(`${root} is not there`);
      const folder = place ? join(root, BACKUP_FOLDER) : to === DATA ? join(root, 'backups') : root;
      const apart = (place !== undefined && place.device !== null) || (await isApart(house, root));
      return { to, folder, problem: null, apart, mustStand };
    }),
  );
}

/** On another disk than the data folder and the system? Of a place whose device the settings name, they say so. */
async function isApart({ settings }: House, root: string): Promise<boolean> {
  const [data, here] = await Promise.all([stat(settings.dataDir), stat(root)]);
  return data.dev !== here.dev && !(await isOnSystemDisk(root));
}
