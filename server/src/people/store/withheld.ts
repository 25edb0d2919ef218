import type { Withheld } from '@tally/core/rights';
import type { Db } from '../../db/database.js';

/**
 * Whose names are not for everybody: contributors who are minors, and people who are pictured. Who is pictured and a
 * contributor of age, too, is named on the credit line anyway.
 */
export const withheld = (db: Db): Promise<Withheld[]> =>
  db.query<Withheld[]>(
    `select code, name, given, family from contributor where minor
     union all select 'somebody', p.name, '', '' from pictured p
     where not exists (select from contributor c where lower(c.name) = lower(p.name))`,
  );
