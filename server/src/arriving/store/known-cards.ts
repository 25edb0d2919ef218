import type { Db } from '../../db/database.js';
import { storable } from '../../seeing/index.js';

/** The intake that shares most files (path, size, time within 2 s) with a listing. */
export async function intakeLike(
  db: Db,
  files: readonly { path: string; bytes: number; modifiedAt: Date }[],
): Promise<{ intakeId: number; cardId: number; shared: number; total: number } | null> {
  const rows: { intakeId: number; cardId: number; shared: number; total: number }[] = await db.query(
    `select i.intake_id as "intakeId", n.card_id as "cardId", count(*)::int as shared,
       (select count(*)::int from item t where t.intake_id = i.intake_id) as total
     from unnest($1::text[], $2::bigint[], $3::timestamptz[]) as q(path, bytes, modified_at)
     join item i on i.bytes = q.bytes and i.modified_at between q.modified_at - interval '2 s' and q.modified_at + interval '2 s' and i.path = q.path
     join intake n on n.id = i.intake_id and n.adopted_at is null
     group by 1, 2 order by 3 desc, 1 desc limit 1`,
    [files.map((f) => storable(f.path)), files.map((f) => f.bytes), files.map((f) => f.modifiedAt)],
  );
  return rows[0] ?? null;
}
