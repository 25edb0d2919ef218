import { readFile } from 'node:fs/promises';
import type { Settings } from '../settings.js';
import { BackupError } from './errors.js';

/** What backups are sealed with; null: they are not. @throws BackupError when its file cannot be read, or is empty */
export async function passphraseOf({ backup }: Pick<Settings, 'backup'>): Promise<string | null> {
  const file = backup === 'by hand' ? undefined : backup.passphraseFile;
  if (file === undefined) return process.env['TALLY_BACKUP_PASSPHRASE'] ?? null;
  const text = (await readFile(file, 'utf8').catch(() => '')).trim();
  if (!text) throw new BackupError(`the passphrase cannot be read from ${file}`);
  return text;
}
