import { Assignment, Contributor } from '../../db/entities/people.js';
import type { Db } from '../../db/database.js';
import { nameOfWord } from './words.js';

/** A record as the cells of a sheet, by the names of columns. */
export interface Known {
  readonly id: number;
  readonly cells: Readonly<Record<string, string>>;
}

const cellsOf = (record: object, fields: Readonly<Record<string, string>>): Known['cells'] =>
  Object.fromEntries(
    Object.entries(fields).map(([field, column]) => {
      const value = (record as Readonly<Record<string, string | number | boolean | null>>)[field];
      if (typeof value === 'boolean') return [column, value ? 'yes' : ''];
      return [column, value === null || value === undefined ? '' : String(value)];
    }),
  );

export async function contributorCells(db: Db, fields: Readonly<Record<string, string>>): Promise<Known[]> {
  const rows = await db.getRepository(Contributor).find({ order: { code: 'ASC' } });
  return rows.map((row) => ({ id: row.id, cells: cellsOf(row, fields) }));
}

export type AssignmentCells =
  | ('slug' | 'title' | 'code' | 'from' | 'to' | 'place')
  | ('expectedCards' | 'description' | 'contacts' | 'embargoUntil')
  | ('termsId' | 'locationId' | 'words');

export async function assignmentCells(db: Db, fields: Readonly<Record<AssignmentCells, string>>): Promise<Known[]> {
  const rows = await db.getRepository(Assignment).find({ order: { fromDay: 'ASC', id: 'ASC' } });
  const words = new Map(
    (
      await db.query<{ id: number; words: string }[]>(
        `select w.assignment_id as id, string_agg(${nameOfWord('w.word_id')}, ' | ' order by w.word_id) as words from assignment_word w group by 1`,
      )
    ).map((row) => [row.id, row.words]),
  );
  return rows.map((row) => {
    const record = Object.assign(row, { from: row.fromDay, to: row.toDay, words: words.get(row.id) ?? '' });
    return { id: row.id, cells: cellsOf(record, fields) };
  });
}
