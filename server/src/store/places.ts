import type { Db } from './database.js';
import type { PlaceSetting } from '../settings.js';

export interface PlaceRow extends Omit<PlaceSetting, 'device'> {
  /** Name of its device as the house says; null: as the system says. */
  readonly device: string | null;
  readonly mark: string;
}

/** Writes the places of the settings; each keeps the mark it got when it was first seen. */
export async function savePlaces(db: Db, places: readonly PlaceSetting[], newMark: () => string): Promise<void> {
  for (const [position, place] of places.entries()) {
    await db.query(
      `insert into place (id, name, kind, root, required, position, mark, device) values ($1, $2, $3, $4, $5, $6, $7, $8)
       on conflict (id) do update set name = $2, kind = $3, root = $4, required = $5, position = $6, device = $8`,
      [place.id, place.name, place.kind, place.root, place.required, position, newMark(), place.device ?? null],
    );
  }
}

export async function listPlaces(db: Db): Promise<PlaceRow[]> {
  return db.query('select id, name, kind, root, required, device, mark from place order by position');
}

export async function placeTotals(db: Db): Promise<Map<string, { copies: number; bytes: number }>> {
  const rows: { id: string; copies: number; bytes: number }[] = await db.query(
    `select c.place_id as id, count(*)::int as copies, coalesce(sum(f.bytes), 0)::bigint as bytes
     from copy c join filed_item f on f.id = c.filed_item_id where c.state = 'tallied' group by 1`,
  );
  return new Map(rows.map((row) => [row.id, row]));
}
