import type { Withheld } from '@tally/core/rights';
import type { Db } from '../../db/database.js';

/** Contributors whose names are not for everybody. */
export const minors = (db: Db): Promise<Withheld[]> =>
  db.query<Withheld[]>('select code, name, given, family from contributor where minor');
