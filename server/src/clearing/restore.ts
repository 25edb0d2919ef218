import { constants } from 'node:fs';
import { copyFile, lstat, mkdir, rm, utimes } from 'node:fs/promises';
import { join } from 'node:path';
import { giveFinalName } from '../drive/final-name.js';
import { hashFile } from '../drive/hashing.js';
import { codeOf, isFolder, joinBytes } from '../drive/list-card.js';
import { type ClearableItem, clearableItems } from './store.js';
import { type House, record, Refusal, theIntake } from '../house/index.js';
import { placesStanding, type StandingPlace } from '../driving/index.js';

export interface Restored {
  readonly restored: number;
  readonly bytes: number;
  readonly failed: { path: string; why: string }[];
}

/**
 * Restores the files of an intake to the card of another intake (or its own) that lies in a reader of this station now.
 * @throws Refusal when that card is not there.
 */
export async function restoreToCard(house: House, intakeId: number, cardOf: number, who: string): Promise<Restored> {
  const card = await theIntake(house, cardOf);
  if (!card.present || card.station !== house.settings.station || !(await isFolder(card.sourcePath))) {
    throw new Refusal('not possible now', 'That card is not in a reader of this station.');
  }
  return restoreIntake(house, intakeId, card.sourcePath, who);
}

/**
 * Puts the files of an intake back as they were on its card, under their original names, folders and times, byte for
 * byte: into a card or any other folder. Nothing that stands there is replaced; every file is read back and compared.
 */
export async function restoreIntake(house: House, intakeId: number, target: string, who: string): Promise<Restored> {
  await theIntake(house, intakeId);
  const places = (await placesStanding(house.db)).filter(({ standing }) => standing.online);
  const failed: { path: string; why: string }[] = [];
  let [restored, bytes] = [0, 0];
  for (const item of await clearableItems(house.db, intakeId)) {
    if (!item.filed) continue;
    const why = await restoreOne(item, places, target, `.tally-restore-${intakeId}.part`);
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

/** Cards have file systems without hard links, mostly. */
async function giveName(temporary: Buffer, final: Buffer): Promise<boolean> {
  try {
    return await giveFinalName(temporary, final, true);
  } catch (error) {
    if (!['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS'].includes(codeOf(error))) throw error;
    return giveFinalName(temporary, final, false);
  }
}

/** @returns why it could not be restored from any place, or null. */
async function restoreOne(
  item: ClearableItem,
  places: readonly StandingPlace[],
  target: string,
  temporaryName: string,
): Promise<string | null> {
  const filed = item.filed!;
  const to = joinBytes(target, item.pathBytes);
  const there = await lstat(to).catch(() => null);
  if (there) {
    const isSame = there.isFile() && there.size === item.bytes && (await hashFile(to)).equals(filed.hash);
    return isSame ? null : 'another file stands there';
  }
  const temporary = Buffer.concat([to.subarray(0, to.lastIndexOf(0x2f) + 1), Buffer.from(temporaryName)]);
  let why = 'no copy is there';
  for (const place of places.filter(({ id }) => filed.tallied.includes(id))) {
    try {
      await mkdir(to.subarray(0, to.lastIndexOf(0x2f)), { recursive: true });
      // What a restoring that was killed left behind.
      await rm(temporary, { force: true });
      await copyFile(join(place.root, filed.folder, filed.name), temporary, constants.COPYFILE_EXCL);
      if ((await hashFile(temporary)).equals(filed.hash)) {
        await utimes(temporary, item.modifiedAt, item.modifiedAt);
        return (await giveName(temporary, to)) ? null : 'another file stands there';
      }
      why = `the copy at ${place.name} is not what was filed`;
    } catch (error) {
      why = `${place.name}: ${codeOf(error)}`;
    } finally {
      await rm(temporary, { force: true }).catch(() => undefined);
    }
  }
  return why;
}
