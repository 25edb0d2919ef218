import { DEFAULT_RULE } from '@tally/core/rule';
import type { Db } from './database.js';

export interface RuleRevision {
  readonly revision: number;
  readonly folderLine: string;
  readonly fileLine: string;
  readonly createdAt: Date;
}

const SELECT = 'select revision, folder_line as "folderLine", file_line as "fileLine", created_at as "createdAt" from house_rule';

export async function currentRule(db: Db): Promise<RuleRevision> {
  const rows: RuleRevision[] = await db.query(`${SELECT} order by revision desc limit 1`);
  if (!rows[0]) throw new Error('There is no house rule. It is made when the server starts.');
  return rows[0];
}

/** Writes the default rule as the first revision where there is none. */
export async function ensureRule(db: Db, at: Date): Promise<void> {
  await db.query(
    `insert into house_rule (folder_line, file_line, created_at) select $1, $2, $3 where not exists (select from house_rule)`,
    [DEFAULT_RULE.folderLine, DEFAULT_RULE.fileLine, at],
  );
}
