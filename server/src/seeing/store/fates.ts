import type { AsideReason } from '@tally/core/life';
import type { Db } from '../../db/database.js';

/**
 * Of the objects that these files lead, the items that cannot be taken (or left) any more: their filing has begun, or they are
 * gone from the card. What is so already is not among them.
 */
export async function pastTaking(
  db: Db,
  intakeId: number,
  leaders: readonly string[],
  taken: boolean,
): Promise<{ begun: string[]; gone: string[] }> {
  const rows: { path: string; isBegun: boolean; isGone: boolean }[] = await db.query(
    `select i.path, f.id is not null as "isBegun", i.gone_at is not null as "isGone" from item i left join filed_item f on f.item_id = i.id
     where i.intake_id = $1 and i.leader = any($2::text[])
       and i.taken <> $3 and (f.id is not null or ($3 and i.gone_at is not null)) order by i.path`,
    [intakeId, leaders, taken],
  );
  return {
    begun: rows.flatMap(({ path, isBegun }) => (isBegun ? [path] : [])),
    gone: rows.flatMap(({ path, isBegun, isGone }) => (isGone && !isBegun ? [path] : [])),
  };
}

/** Sets items aside. @returns their paths. */
export async function setAsideItems(
  db: Db,
  intakeId: number,
  itemIds: readonly number[],
  reason: AsideReason,
  who: string,
): Promise<string[]> {
  const [rows]: [{ path: string }[], number] = await db.query(
    `update item set aside = $3, aside_by = $4, taken = false where intake_id = $1 and id = any($2::int[]) and set_aside is null returning path`,
    [intakeId, itemIds, reason, who],
  );
  return rows.map(({ path }) => path).sort();
}

/** Takes what was set aside again. @returns how many. */
export async function takeAgain(db: Db, intakeId: number, itemIds: readonly number[]): Promise<number> {
  const [, count]: [unknown, number] = await db.query(
    `update item set aside = null, aside_by = null, taken = problem is null
     where intake_id = $1 and id = any($2::int[]) and aside is not null`,
    [intakeId, itemIds],
  );
  return count;
}

/** These files are gone from the card of an intake, or (null) there again. */
export async function setGone(db: Db, intakeId: number, paths: readonly Buffer[], at: Date | null): Promise<void> {
  await db.query('update item set gone_at = $3 where intake_id = $1 and path_bytes = any($2::bytea[])', [intakeId, paths, at]);
}

/** Every file of an intake that is not among these is gone from its card. */
export async function setGoneExcept(db: Db, intakeId: number, paths: readonly Buffer[], at: Date): Promise<void> {
  await db.query(
    `update item set gone_at = $3 where intake_id = $1 and gone_at is null and set_aside is null and path_bytes <> all($2::bytea[])`,
    [intakeId, paths, at],
  );
}

/** The card of an intake is here with every file that it had. */
export async function allThere(db: Db, intakeId: number): Promise<void> {
  await db.query('update item set gone_at = null where intake_id = $1 and gone_at is not null', [intakeId]);
}
