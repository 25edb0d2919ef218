import type { House } from '../../house/index.js';
import type { Known } from '../store/sheets.js';
import { houseList } from './lists.js';

/** Entries of a list of the house in the cells of a sheet: by their names there, by their ids here. */
export interface NamedCells {
  /** The cells of records whose column holds an id. */
  readonly named: (known: readonly Known[]) => Known[];
  /** @returns null: the cell says nothing; undefined: there is no such entry. */
  readonly idOf: (cell: string) => number | null | undefined;
  readonly missing: (cell: string) => string;
}

export async function namedCells(house: House, list: 'terms' | 'locations', column: string): Promise<NamedCells> {
  const all = await houseList(house.db, list);
  const names = new Map(all.map(({ id, name }) => [String(id), name]));
  const ids = new Map(all.map(({ id, name }) => [name.toLowerCase(), id]));
  return {
    named: (known) => known.map(({ id, cells }) => ({ id, cells: { ...cells, [column]: names.get(cells[column] ?? '') ?? '' } })),
    idOf: (cell) => (cell.trim() === '' ? null : ids.get(cell.trim().toLowerCase())),
    missing: (cell) => `${column} “${cell}” is not in the list: there is ${all.map(({ name }) => name).join(', ') || 'nothing'}`,
  };
}
