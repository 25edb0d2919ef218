import type { HouseLists } from '@tally/core/drive';
import type { Db } from '../../db/database.js';

/** Whom and what the house knows, to read names by. */
export async function houseLists(db: Db): Promise<HouseLists> {
  const contributors = await db.query<{ id: number; name: string; codes: string[] }[]>(
    `select c.id, c.name, array_prepend(c.code, array(select o.code from former_code o where o.contributor_id = c.id order by 1)) as codes
     from contributor c order by c.id`,
  );
  const assignments = await db.query<{ id: number; slug: string; title: string; from: string | null; to: string | null }[]>(
    `select id, slug, title, to_char(from_day, 'YYYY-MM-DD') as from, to_char(to_day, 'YYYY-MM-DD') as to from assignment order by id`,
  );
  return { contributors, assignments };
}

/** Slugs that begin alike: a new one must be another. */
export async function slugsLike(db: Db, slug: string): Promise<string[]> {
  const rows = await db.query<{ slug: string }[]>('select slug from assignment where starts_with(slug, $1)', [slug]);
  return rows.map((row) => row.slug);
}
