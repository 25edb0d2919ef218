import type { Db } from '../../db/database.js';

/** What is kept of a folder and what is there: how much is filed in it or promised to it. */
export interface WrongFolder {
  readonly folder: string;
  readonly kept: { readonly items: number; readonly bytes: number; readonly newest: number };
  readonly counted: { readonly items: number; readonly bytes: number; readonly newest: number };
}

/** Keeps everybody from filing anything else until the transaction ends. */
export async function holdFolders(tx: Db): Promise<void> {
  await tx.query('lock table filed_folder in share row exclusive mode');
}

/** Folders of which what is kept is not what a plain count finds. */
export async function wrongFolders(db: Db): Promise<WrongFolder[]> {
  return db.query(
    `select coalesce(k.folder, c.folder) as folder, json_build_object('items', coalesce(k.items, 0), 'bytes', coalesce(k.bytes, 0), 'newest', coalesce(k.newest, 0)) as kept,
       json_build_object('items', coalesce(c.items, 0), 'bytes', coalesce(c.bytes, 0), 'newest', coalesce(c.newest, 0)) as counted
     from filed_folder k full join (select folded_folder, (array_agg(folder order by id))[1] as folder, count(*)::int as items,
         sum(bytes)::bigint as bytes, max(id) as newest from filed_item group by 1) c on c.folded_folder = k.folded
     where k.items is distinct from c.items or k.bytes is distinct from c.bytes or k.newest < c.newest order by 1`,
  );
}

/** Counts every filed item of the house anew. Call it in a transaction that holds the folders. */
export async function recountFolders(tx: Db): Promise<void> {
  await tx.query('select recount_folders()');
}
