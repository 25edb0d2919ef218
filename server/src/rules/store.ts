import { holdUntilEnd } from '../db/locks.js';
import type { RevisionView } from '@tally/contract';
import { DEFAULT_RULE, settingsOf, type RuleSource } from '@tally/core/rule';
import type { Db } from '../db/database.js';

export interface RuleRevision {
  readonly revision: number;
  readonly rule: RuleSource;
  readonly note: string;
  readonly who: string | null;
  readonly warnings: RevisionView['warnings'];
  readonly createdAt: Date;
}

const SELECT = `select revision, note, said_by as who, warnings, created_at as "createdAt",
  json_build_object('folderLine', folder_line, 'fileLine', file_line, 'kinds', kinds, 'settings', settings) as rule from house_rule`;

export async function currentRule(db: Db): Promise<RuleRevision> {
  const rows: RuleRevision[] = await db.query(`${SELECT} order by revision desc limit 1`);
  if (!rows[0]) throw new Error('There is no house rule. It is made when the server starts.');
  return rows[0];
}

export async function ruleOfRevision(db: Db, revision: number): Promise<RuleRevision | null> {
  const rows: RuleRevision[] = await db.query(`${SELECT} where revision = $1`, [revision]);
  return rows[0] ?? null;
}

/** All revisions, newest first, with how many intakes were filed by each. */
export async function listRules(db: Db): Promise<(RuleRevision & { intakes: number })[]> {
  return db.query(`select r.*, (select count(*)::int from intake i where i.rule_revision = r.revision) as intakes
    from (${SELECT}) r order by r.revision desc`);
}

/** Keeps other people from saving a revision until the transaction ends. Reading goes on. */
export async function lockRules(db: Db): Promise<void> {
  await holdUntilEnd(db, 'rules', 0);
}

/** Writes a revision. Revisions are never changed. */
export async function addRule(db: Db, { rule, note, who, warnings, createdAt }: Omit<RuleRevision, 'revision'>): Promise<number> {
  const rows: { revision: number }[] = await db.query(
    `insert into house_rule (folder_line, file_line, kinds, settings, note, said_by, warnings, created_at)
     values ($1, $2, $3, $4, $5, $6, $7, $8) returning revision`,
    [
      rule.folderLine,
      rule.fileLine,
      JSON.stringify(rule.kinds ?? {}),
      JSON.stringify(rule.settings ?? {}),
      note,
      who,
      JSON.stringify(warnings),
      createdAt,
    ],
  );
  return rows[0]!.revision;
}

/** Writes the default rule as the first revision where there is none. */
export async function ensureRule(db: Db, at: Date): Promise<void> {
  await db.query(
    `insert into house_rule (folder_line, file_line, note, created_at)
     select $1, $2, 'The rule a new house begins with', $3 where not exists (select from house_rule)`,
    [DEFAULT_RULE.folderLine, DEFAULT_RULE.fileLine, at],
  );
}

/** What the house knows that can stand in names. */
export async function knownValues(db: Db): Promise<{
  contributors: { code: string; name: string }[];
  assignments: { slug: string; title: string; code: string; from: string; to: string; place: string }[];
  cameras: { make: string; model: string }[];
  labels: string[];
}> {
  const [contributors, assignments, cameras, labels] = await Promise.all([
    db.query<{ code: string; name: string }[]>('select code, name from contributor order by code'),
    db.query<{ slug: string; title: string; code: string; from: string; to: string; place: string }[]>(
      `select slug, title, code, to_char(from_day, 'YYYY-MM-DD') as "from", to_char(to_day, 'YYYY-MM-DD') as "to", place from assignment order by from_day desc limit 2000`,
    ),
    db.query<{ make: string; model: string }[]>('select distinct make, model from camera order by 1, 2'),
    db.query<{ label: string }[]>('select label from card where label is not null order by length(label) desc limit 200'),
  ]);
  return { contributors, assignments, cameras, labels: labels.map(({ label }) => label) };
}

/** Folders that something was filed into, the newest first. */
export async function filedFolders(db: Db, limit: number): Promise<string[]> {
  const rows = await db.query<{ folder: string }[]>('select folder from filed_folder order by newest desc limit $1', [limit]);
  return rows.map(({ folder }) => folder);
}

/** When the house's day begins, `HH:mm`: a night belongs to the day before it. */
export const dayBegins = async (db: Db): Promise<string> => settingsOf((await currentRule(db)).rule.settings).day.begins;

/**
 * Revisions as a house record tells them, put behind those that the house has. @param told in their order
 * @returns the revision that each of them is here, by the one it was
 */
export async function rebuildRules(
  tx: Db,
  told: readonly { revision: number; rule: RuleSource; note: string; savedBy: string | null; createdAt: string }[],
): Promise<Map<number, number>> {
  await lockRules(tx);
  const here = await tx.query<RuleRevision[]>(`${SELECT} order by revision`);
  const revisions = new Map<number, number>();
  let isSame = true;
  for (const [at, { revision, rule, note, savedBy, createdAt }] of told.entries()) {
    const isIt = (one: RuleRevision | undefined) => one !== undefined && sourceText(one.rule) === sourceText(rule);
    isSame &&= isIt(here[at]);
    // What an earlier round put in has the moment that was told.
    const isTold = (one: RuleRevision) => one.createdAt.getTime() === Date.parse(createdAt) && isIt(one);
    const taken = new Set(revisions.values());
    const known = isSame ? here[at] : here.find((one) => !taken.has(one.revision) && isTold(one));
    const made = { rule, note, who: savedBy, warnings: [], createdAt: new Date(createdAt) };
    revisions.set(revision, known?.revision ?? (await addRule(tx, made)));
  }
  return revisions;
}

/** A rule as text that is the same for the same rule, in whatever order its settings stand. */
const sourceText = ({ folderLine, fileLine, kinds, settings }: RuleSource): string =>
  JSON.stringify([folderLine, fileLine, kinds ?? {}, settings ?? {}], (_key, value: unknown) =>
    value && typeof value === 'object' && !Array.isArray(value)
      ? Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)))
      : value,
  );
