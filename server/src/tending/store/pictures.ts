import type { Db } from '../../db/database.js';

/** A filed picture that has been looked at. */
export interface FiledPicture {
  readonly filedItemId: number;
  readonly itemId: number;
  readonly path: string;
  readonly width: number;
  readonly height: number;
  readonly capturedLocal: string;
  /** Does the file say itself when it was taken? */
  readonly byCamera: boolean;
}

const PICTURE = `f.id as "filedItemId", f.item_id as "itemId", concat_ws('/', nullif(f.folder, ''), f.name) as path, i.width, i.height,
  i.captured_local as "capturedLocal", i.capture_source <> 'file time' as "byCamera"`;
const LOOKED_AT = 'i.look is not null and i.width is not null and i.height is not null';

/** Intakes that were adopted at a place, after one. */
export async function intakesAdoptedAt(db: Db, placeId: string, after: number, limit: number): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>(
    'select id from intake where adoption_id is not null and adopted_at = $1 and id > $2 order by id limit $3',
    [placeId, after, limit],
  );
  return rows.map(({ id }) => id);
}

/** Pictures of intakes. */
export const picturesOfIntakes = (db: Db, intakeIds: readonly number[]): Promise<FiledPicture[]> =>
  db.query<FiledPicture[]>(
    `select ${PICTURE} from filed_item f join item i on i.id = f.item_id
     where f.intake_id = any($1::int[]) and ${LOOKED_AT} order by f.intake_id, f.id`,
    [intakeIds],
  );

/** These, where they are filed. */
export const picturesOf = (db: Db, itemIds: readonly number[]): Promise<FiledPicture[]> =>
  db.query<FiledPicture[]>(
    `select ${PICTURE} from filed_item f join item i on i.id = f.item_id where f.item_id = any($1::int[]) and ${LOOKED_AT}`,
    [itemIds],
  );
