import type { CopyState } from '@tally/core/copies';
import { folderOf, foldName, nameOf } from '@tally/core/rule';
import type { Db } from '../../db/database.js';

/** A filed file as the records tell it. */
export interface RebuiltFile {
  readonly itemId: number;
  /** Path from a place's root. */
  readonly path: string;
  /** Where the lists stand that explain it. */
  readonly listFolder: string;
  readonly n: number | null;
  readonly bytes: number;
  /** XXH128 and fast identity of the card's bytes, 32 hexadecimal digits. */
  readonly xxh128: string;
  readonly fast: string | null;
  readonly filedAt: string | null;
  readonly copies: readonly {
    readonly placeId: string;
    readonly state: CopyState;
    readonly talliedAt: string | null;
    readonly proof: string | null;
    readonly problem: string | null;
  }[];
}

/** Puts filed items back, with their copies. One whose name somebody else has stays out. @returns ids by the item's */
export async function rebuildFiled(tx: Db, intakeId: number, files: readonly RebuiltFile[]): Promise<Map<number, number>> {
  const rows = files.map(({ path, copies: _copies, ...file }) => ({
    ...file,
    ...{ folder: folderOf(path), name: nameOf(path), foldedFolder: foldName(folderOf(path)), foldedPath: foldName(path) },
    foldedList: foldName(file.listFolder),
  }));
  const made = await tx.query<{ id: number; itemId: number }[]>(
    `insert into filed_item (intake_id, item_id, folder, folded_folder, name, folded_path, list_folder, folded_list_folder, n, bytes, hash, quick_hash, filed_at)
     select $2, "itemId", folder, "foldedFolder", name, "foldedPath", "listFolder", "foldedList", n, bytes, decode(xxh128, 'hex'), decode(fast, 'hex'), "filedAt"
     from jsonb_to_recordset($1::jsonb) as r("itemId" int, folder text, "foldedFolder" text, name text, "foldedPath" text, "listFolder" text,
       "foldedList" text, n int, bytes bigint, xxh128 text, fast text, "filedAt" timestamptz)
     on conflict do nothing returning id, item_id as "itemId"`,
    [JSON.stringify(rows), intakeId],
  );
  const ids = new Map(made.map(({ id, itemId }) => [itemId, id]));
  await tx.query(
    `insert into copy (filed_item_id, place_id, state, tallied_at, proof, problem) select id, "placeId", state, "talliedAt", proof, problem
     from jsonb_to_recordset($1::jsonb) as r(id int, "placeId" text, state text, "talliedAt" timestamptz, proof text, problem text)`,
    [
      JSON.stringify(
        files.flatMap(({ itemId, copies }) => (ids.has(itemId) ? copies.map((copy) => ({ id: ids.get(itemId), ...copy })) : [])),
      ),
    ],
  );
  return ids;
}

/** Where filed items stood before: what is printed leads to them. @param mendId a mend that stands for all that moved them */
export async function rebuildFormer(
  tx: Db,
  mendId: number,
  former: readonly { readonly filedItemId: number; readonly path: string; readonly until: string }[],
): Promise<void> {
  await tx.query(
    `insert into former_path (filed_item_id, path, folded_path, folded_folder, until, mend_id)
     select "filedItemId", path, "foldedPath", "foldedFolder", until, $2 from jsonb_to_recordset($1::jsonb)
       as r("filedItemId" int, path text, "foldedPath" text, "foldedFolder" text, until timestamptz)`,
    [
      JSON.stringify(
        former.map((one) => ({ ...one, foldedPath: foldName(one.path), foldedFolder: foldName(folderOf(one.path)) })),
      ),
      mendId,
    ],
  );
}

/** Filed items that stand at these paths. */
export async function filedByPaths(tx: Db, paths: readonly string[]): Promise<Map<string, number>> {
  const rows = await tx.query<{ path: string; id: number }[]>(
    `select r.path, f.id from unnest($1::text[], $2::text[]) as r(path, folded) join filed_item f on f.folded_path = r.folded`,
    [paths, paths.map(foldName)],
  );
  return new Map(rows.map(({ path, id }) => [path, id]));
}
