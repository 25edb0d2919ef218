import type { Db } from '../../db/database.js';

/** Erases what is kept of a contributor beside the contributor's own row. @returns how much there was. */
export async function forgetBesides(tx: Db, id: number): Promise<{ agreements: number; habits: number; cameras: number }> {
  const [agreements] = await tx.query<[{ id: number }[], number]>(
    'delete from agreement where contributor_id = $1 returning id',
    [id],
  );
  const [habits] = await tx.query<[{ id: number }[], number]>(
    `delete from habit where belongs = 'contributor' and of = $1::text returning id`,
    [String(id)],
  );
  const [cameras] = await tx.query<[{ id: number }[], number]>(
    'update camera set contributor_id = null where contributor_id = $1 returning id',
    [id],
  );
  return { agreements: agreements.length, habits: habits.length, cameras: cameras.length };
}
