import type { Db } from './database.js';

/** Columns of paths that are asked for by ranges: compared by bytes, whatever order the database itself has. */
export const PATHS: readonly (readonly [table: string, columns: readonly string[]])[] = [
  ['filed_folder', ['folded', 'folder']],
  ['filed_item', ['folder', 'folded_folder', 'name', 'list_folder', 'folded_list_folder', 'folded_path']],
  ['former_path', ['path', 'folded_path', 'folded_folder']],
  ['stood_folder', ['path', 'parent', 'name']],
  ['stray', ['path', 'folder']],
  ['drive_finding', ['path', 'folder']],
  ['beside_due', ['folder']],
  ['beside_written', ['folder', 'name']],
];

/** Condition for paths in a folder and below it, by an index: in bytes, `/` is followed by `0`. @param folder SQL for the folder */
export const inAndBelow = (column: string, folder: string): string =>
  `(${column} = ${folder} or (${column} > ${folder} || '/' and ${column} < ${folder} || '0'))`;

/** @throws when paths are compared by the order of a language: what is in a folder would be something else. */
export async function mustCompareByBytes(db: Db): Promise<void> {
  const wanted = PATHS.flatMap(([table, columns]) => columns.map((column) => `${table}.${column}`));
  const rows = await db.query<{ name: string }[]>(
    `select q.name from unnest($1::text[]) as q(name) where not exists (
       select from pg_attribute a join pg_class t on t.oid = a.attrelid join pg_collation c on c.oid = a.attcollation
       where t.relnamespace = 'public'::regnamespace and t.relname || '.' || a.attname = q.name and c.collname = 'C') order by 1`,
    [wanted],
  );
  if (rows.length)
    throw new Error(
      `The database compares paths by the order of a language (${rows.map(({ name }) => name).join(', ')}). Bring its schema up to date: tally migrate.`,
    );
}
