import type { PreviewSize } from '../../media/previews.js';
import type { Db } from '../../db/database.js';

export interface AskedPicture {
  readonly itemId: number;
  readonly size: PreviewSize;
}

/** Asks a station for a picture, unless somebody has asked already. */
export async function askPicture(db: Db, { itemId, size }: AskedPicture, station: string): Promise<void> {
  await db.query(
    'insert into picture_asked (item_id, size, station) values ($1, $2, $3) on conflict (item_id, size) do nothing',
    [...[itemId, size, station]],
  );
}

/** What a station is asked for, the oldest first. What nobody fetched in a minute is forgotten. */
export async function picturesWanted(db: Db, station: string, limit: number): Promise<AskedPicture[]> {
  await db.query(`delete from picture_asked where station = $1 and asked_at < now() - interval '1 minute'`, [station]);
  return db.query<AskedPicture[]>(
    'select item_id as "itemId", size from picture_asked where station = $1 and not answered order by asked_at, item_id limit $2',
    [station, limit],
  );
}

/** @param picture null: there is none. */
export async function answerPicture(db: Db, { itemId, size }: AskedPicture, picture: Buffer | null): Promise<void> {
  await db.query('update picture_asked set answered = true, picture = $3 where item_id = $1 and size = $2', [
    itemId,
    size,
    picture,
  ]);
}

/** @returns undefined as long as there is no answer. */
export async function pictureAnswered(db: Db, { itemId, size }: AskedPicture): Promise<Buffer | null | undefined> {
  const rows = await db.query<{ picture: Buffer | null }[]>(
    'select picture from picture_asked where item_id = $1 and size = $2 and answered',
    [itemId, size],
  );
  return rows[0]?.picture;
}
