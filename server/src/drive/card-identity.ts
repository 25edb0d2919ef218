import { lstat, readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { joinBytes } from './list-card.js';

/** What tells that a card is there, beside its folder's name: the device it lies on, and a file that was on it. */
export interface CardIdentity {
  /** As the system numbers devices; null where it does not say. */
  readonly device: string | null;
  /** Path on the card, byte for byte; null when it holds no regular file. */
  readonly witness: Buffer | null;
}

export const isSameIdentity = (a: CardIdentity, b: CardIdentity): boolean =>
  a.device === b.device && (a.witness === null ? b.witness === null : b.witness !== null && a.witness.equals(b.witness));

interface Listed {
  readonly pathBytes: Buffer;
  readonly problem: string | null;
}

/** What a card in a folder is known by, as long as it lies there. */
export async function cardIdentity(root: string, entries: readonly Listed[]): Promise<CardIdentity> {
  const device = await deviceOf(root);
  return { device, witness: entries.find(({ problem }) => problem === null)?.pathBytes ?? null };
}

/**
 * Is the card still there? A folder alone is not: a mount point stays when its card is gone. Its device must be the same
 * and the file that was on it must stand, read past what the system remembers of an empty folder.
 */
export async function standsAt(root: string, { device, witness }: CardIdentity): Promise<boolean> {
  const now = await deviceOf(root);
  if (now === null || (device !== null && device !== now)) return false;
  if (witness === null) return true;
  return lstat(joinBytes(root, witness)).then(
    (found) => found.isFile(),
    () => false,
  );
}

/** Does a folder lie on this device still? What is on it may have changed. @param device null: any will do. */
export async function liesOn(root: string, device: string | null): Promise<boolean> {
  const now = await deviceOf(root);
  return now !== null && (device === null || device === now);
}

/** Is there nothing in a reader but the folder that a card is mounted on? */
export async function isBareMountPoint(root: string): Promise<boolean> {
  try {
    if ((await readdir(root)).length) return false;
  } catch {
    // Not there or not to be listed: whoever receives it says so.
    return false;
  }
  return (await deviceOf(root)) === (await deviceOf(join(root, '..')));
}

async function deviceOf(folder: string): Promise<string | null> {
  try {
    const found = await stat(folder, { bigint: true });
    return found.isDirectory() ? String(found.dev) : null;
  } catch {
    // Not there, or not to be looked at: no device either way.
    return null;
  }
}
