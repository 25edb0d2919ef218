import { constants } from 'node:fs';
import { copyFile, lstat, mkdir, rm, utimes } from 'node:fs/promises';
import { join } from 'node:path';
import { hashFile } from '../drive/hashing.js';
import { codeOf, joinBytes } from '../drive/list-card.js';
import { clearableItems, type ClearableItem } from '../store/clearing.js';
import { record } from '../store/events.js';
import type { House } from './house.js';
import { placesNow, type StandingPlace } from './places.js';
import { theIntake } from './slip.js';

export interface Restored {
  readonly restored: number;
  readonly bytes: number;
  readonly failed: readonly { readonly path: string; readonly why: string }[];
}

/**
 * Puts the files of an intake back as they were on its card, under their original names, folders and times, byte for
 * byte: into a card or any other folder. Nothing that stands there is replaced; every file is read back and compared.
 */
export async function restoreIntake(house: House, intakeId: number, target: string, who: string): Promise<Restored> {
  await theIntake(house, intakeId);
  const places = (await placesNow(house.db)).filter(({ standing }) => standing.online);
  const failed: { path: string; why: string }[] = [];
  let [restored, bytes] = [0, 0];
  for (const item of await clearableItems(house.db, intakeId)) {
    if (!item.filed) continue;
    const why = await restoreOne(item, places, target);
    if (why === null) {
      restored++;
      bytes += item.bytes;
    } else failed.push({ path: item.path, why });
  }
  const rest = failed.length ? ` ${failed.length} could not be, first ${failed[0]!.path}: ${failed[0]!.why}.` : '';
  const text = `Restored ${restored} files as they were on the card into ${target}.${rest}`;
  await record(house.db, { at: house.clock(), kind: 'restored', intakeId, who, text });
  return { restored, bytes, failed };
}

/** @returns why it could not be restored from any place, or null. */
async function restoreOne(item: ClearableItem, places: readonly StandingPlace[], target: string): Promise<string | null> {
  const filed = item.filed!;
  const to = joinBytes(target, item.pathBytes);
  const there = await lstat(to).catch(() => null);
  if (there) {
    const isSame = there.isFile() && there.size === item.bytes && (await hashFile(to)).equals(filed.hash);
    return isSame ? null : 'another file stands there';
  }
  let why = 'no copy is there';
  for (const place of places.filter(({ id }) => filed.tallied.includes(id))) {
    try {
      await mkdir(to.subarray(0, to.lastIndexOf(0x2f)), { recursive: true });
      await copyFile(join(place.root, filed.folder, filed.name), to, constants.COPYFILE_EXCL);
      if ((await hashFile(to)).equals(filed.hash)) {
        await utimes(to, item.modifiedAt, item.modifiedAt);
        return null;
      }
      why = `the copy at ${place.name} is not what was filed`;
      await rm(to);
    } catch (error) {
      why = `${place.name}: ${codeOf(error)}`;
      if (codeOf(error) === 'EEXIST') return 'another file stands there';
    }
  }
  return why;
}
