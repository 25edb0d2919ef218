import { readdir, rm, stat, utimes } from 'node:fs/promises';
import { join } from 'node:path';

const DAY_MS = 86_400_000;
/** Folders that are remembered as used: more are noted again, which costs a call each. */
const REMEMBERED = 10_000;

/** Notes on a folder's time that something in it was looked at: once a day, and not by the clock of reading, which disks may not keep. */
export class Used {
  private readonly noted = new Map<string, number>();

  note(folder: string): void {
    const now = Date.now();
    if (now - (this.noted.get(folder) ?? 0) < DAY_MS) return;
    if (this.noted.size >= REMEMBERED) this.noted.clear();
    this.noted.set(folder, now);
    // A folder that is not there yet is made, and then has its time.
    utimes(folder, new Date(now), new Date(now)).catch(() => undefined);
  }
}

/**
 * Removes what was made for intakes that nobody looked at since a moment: what is asked for again is made again.
 * @param root a folder for each intake @returns how many intakes' were removed
 */
export async function removeUnused(root: string, since: Date, signal: AbortSignal): Promise<number> {
  let removed = 0;
  for (const name of await readdir(root).catch(() => [])) {
    if (signal.aborted) break;
    // Numbers: of before the folders were called by what nobody else draws.
    if (!/^(\d+|[0-9a-f-]{36})$/.test(name)) continue;
    const folder = join(root, name);
    const stats = await stat(folder).catch(() => null);
    if (!stats?.isDirectory() || stats.mtime >= since) continue;
    await rm(folder, { recursive: true, force: true });
    removed++;
  }
  return removed;
}
