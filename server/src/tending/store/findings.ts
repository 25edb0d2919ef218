import type { Finding, FindingKind } from '@tally/core/drive';
import type { Db } from '../../db/database.js';

/** A finding as it is kept: since when, and how many files it is about. */
export interface FindingRow extends Finding {
  readonly id: number;
  readonly placeId: string;
  readonly folder: string;
  readonly files: number;
  readonly since: Date;
}

export interface NewFinding extends Finding {
  readonly folder: string;
  readonly files: number;
  /** Is it about a folder, and seen by whoever looks into that, not into the one it stands in? */
  readonly ofFolder?: boolean;
}

/** Keeps what was found: what was known before keeps since when. */
export async function keepFindings(db: Db, placeId: string, found: readonly NewFinding[], at: Date): Promise<void> {
  for (let from = 0; from < found.length; from += 2000) {
    const some = found.slice(from, from + 2000);
    await db.query(
      `insert into drive_finding (place_id, kind, path, folder, filed_item_id, other, what, files, of_folder, since)
       select distinct on (q.kind, q.path) $1, q.*, $10 from unnest($2::text[], $3::text[], $4::text[], $5::int[], $6::text[], $7::text[], $8::int[], $9::boolean[])
         as q(kind, path, folder, filed_item_id, other, what, files, of_folder)
       on conflict (place_id, kind, path) do update set folder = excluded.folder, filed_item_id = excluded.filed_item_id, other = excluded.other,
         what = excluded.what, files = excluded.files, of_folder = excluded.of_folder
       where (drive_finding.folder, drive_finding.filed_item_id, drive_finding.other, drive_finding.what, drive_finding.files, drive_finding.of_folder)
         is distinct from (excluded.folder, excluded.filed_item_id, excluded.other, excluded.what, excluded.files, excluded.of_folder)`,
      [
        placeId,
        some.map((one) => one.kind),
        some.map((one) => one.path),
        some.map((one) => one.folder),
        some.map((one) => one.filedItemId),
        some.map((one) => one.other),
        some.map((one) => one.what),
        some.map((one) => one.files),
        some.map((one) => one.ofFolder ?? false),
        at,
      ],
    );
  }
}

/** Forgets findings of these kinds that were not found again where these folders were looked into (null: all of them). */
export async function forgetFindings(
  db: Db,
  placeId: string,
  kinds: readonly FindingKind[],
  folders: readonly string[] | null,
  still: readonly { readonly kind: FindingKind; readonly path: string }[],
): Promise<void> {
  const known = await db.query<{ id: number; kind: FindingKind; path: string }[]>(
    `select d.id, d.kind, d.path from drive_finding d where d.place_id = $1 and d.kind = any($2::text[])
       and ($3::text[] is null or (not d.of_folder and d.folder = any($3::text[])) or (d.of_folder and d.path = any($3::text[])))`,
    [placeId, kinds, folders],
  );
  const found = new Set(still.map(({ kind, path }) => `${kind} ${path}`));
  const gone = known.flatMap(({ id, kind, path }) => (found.has(`${kind} ${path}`) ? [] : [id]));
  if (gone.length) await foundNoMore(db, gone);
}

const FINDINGS = `select d.id, d.place_id as "placeId", d.kind, d.path, d.folder, d.filed_item_id as "filedItemId", d.other, d.what, d.files, d.since from drive_finding d`;

/** Findings of a place, after one; of one kind, or in one folder and below. */
export const findingsAfter = (
  db: Db,
  placeId: string,
  kind: FindingKind | null,
  folder: string | null,
  after: number,
  limit: number,
): Promise<FindingRow[]> =>
  db.query<FindingRow[]>(
    `${FINDINGS} where d.place_id = $1 and ($2::text is null or d.kind = $2)
       and ($3::text is null or d.folder = $3 or starts_with(d.folder, $3 || '/')) and d.id > $4 order by d.id limit $5`,
    [placeId, kind, folder, after, limit],
  );

export const findingsById = (db: Db, ids: readonly number[]): Promise<FindingRow[]> =>
  db.query<FindingRow[]>(`${FINDINGS} where d.id = any($1::int[]) order by d.id`, [ids]);

/** Findings of one kind in one folder itself, after one. */
export const findingsIn = (
  db: Db,
  placeId: string,
  kind: FindingKind,
  folder: string,
  after: number,
  limit: number,
): Promise<FindingRow[]> =>
  db.query<FindingRow[]>(
    `${FINDINGS} where d.place_id = $1 and d.kind = $2 and d.folder = $3 and d.id > $4 order by d.id limit $5`,
    [placeId, kind, folder, after, limit],
  );

/** Findings of one kind, folder by folder, after one (null: from the first). `first`: id of one of them. */
export const foundInFolders = (
  db: Db,
  placeId: string,
  kind: FindingKind,
  after: string | null,
  limit: number,
): Promise<{ folder: string; findings: number; files: number; since: Date; first: number }[]> =>
  db.query(
    `select folder, count(*)::int as findings, sum(files)::int as files, min(since) as since, min(id) as first from drive_finding
     where place_id = $1 and kind = $2 and ($3::text is null or folder > $3) group by folder order by folder limit $4`,
    [placeId, kind, after, limit],
  );

/** How many there are of each kind, and of how many files. */
export async function countFindings(db: Db, placeId: string): Promise<{ kind: FindingKind; findings: number; files: number }[]> {
  return db.query(
    `select kind, count(*)::int as findings, sum(files)::int as files from drive_finding where place_id = $1 group by kind`,
    [placeId],
  );
}

/** What was mended, or is not found again, is found no more. */
export async function foundNoMore(db: Db, ids: readonly number[]): Promise<void> {
  await db.query('delete from drive_finding where id = any($1::int[])', [ids]);
}
