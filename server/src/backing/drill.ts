import { randomBytes } from 'node:crypto';
import { mkdtemp, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { dropDatabase, lastLinkOf, makeDatabase } from '../db/whole-database.js';
import type { Settings } from '../settings.js';
import { bringBack, lookAtBackup } from './bringing-back.js';
import { BackupError } from './errors.js';

/**
 * Tries a backup: brings it back into a database and a folder that are thrown away, and compares every table's rows and the end
 * of the log with what the backup says. Needs the database's owner, who may make databases.
 * @returns what was found, in words. @throws BackupError when it cannot be brought back
 */
export async function drill(settings: Settings, folder: string, passphrase: string | null, signal: AbortSignal): Promise<string> {
  const { databaseAdminUrl } = settings;
  if (databaseAdminUrl === undefined)
    throw new BackupError(
      'a drill makes a database: say whose, by TALLY_DATABASE_ADMIN_URL (npm start shows how in docs/guide/backup.md)',
    );
  const name = `tally_drill_${randomBytes(6).toString('hex')}`;
  const url = Object.assign(new URL(databaseAdminUrl), { pathname: `/${name}` }).href;
  const dataDir = await mkdtemp(join(settings.dataDir, 'run', 'drill-'));
  await makeDatabase(databaseAdminUrl, name);
  try {
    const empty = { ...settings, databaseUrl: url, databaseAdminUrl: url, databaseBackupUrl: undefined, dataDir };
    const ask = { settings: empty, folder, passphrase, signal };
    const whole = await lookAtBackup(ask);
    await bringBack(ask, whole);
    const { rows, log } = whole.manifest;
    const end = await lastLinkOf(url);
    if (end?.hash !== log?.hash || end?.position !== log?.position)
      throw new BackupError('the log that came back ends elsewhere');
    const count = Object.values(rows).reduce((sum, one) => sum + one, 0);
    return `The drill went well: ${Object.keys(rows).length} tables with ${count} rows came back as they were.`;
  } finally {
    await dropDatabase(databaseAdminUrl, name);
    await rm(dataDir, { recursive: true, force: true });
  }
}
