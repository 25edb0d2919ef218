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

/** Pictures that were adopted and have a copy at a place, after one. */
export const adoptedPictures = (db: Db, placeId: string, after: number, limit: number): Promise<FiledPicture[]> =>
  db.query<FiledPicture[]>(
    `select ${PICTURE} from filed_item f join item i on i.id = f.item_id join copy c on c.filed_item_id = f.id and c.place_id = $1
     where f.id > $2 and ${LOOKED_AT} and exists (select from intake n where n.id = f.intake_id and n.adopted_at is not null)
     order by f.id limit $3`,
    [placeId, after, limit],
  );

/** These, where they are filed. */
export const picturesOf = (db: Db, itemIds: readonly number[]): Promise<FiledPicture[]> =>
  db.query<FiledPicture[]>(
    `select ${PICTURE} from filed_item f join item i on i.id = f.item_id where f.item_id = any($1::int[]) and ${LOOKED_AT}`,
    [itemIds],
  );
