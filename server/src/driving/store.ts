import type { PlaceFill } from '@tally/contract';
import type { Kind } from '@tally/core/card';
import type { Holding } from '@tally/core/copies';
import type { PlaceSetting } from '../settings.js';
import type { House } from '../house/index.js';
import type { Db } from '../db/database.js';

export interface PlaceRow {
  readonly id: string;
  readonly name: string;
  readonly kind: PlaceSetting['kind'];
  /** Where this station mounts it; '' where it does not. */
  readonly root: string;
  /** Do any station's settings name it? Else it only holds what it holds. */
  readonly known: boolean;
  readonly required: boolean;
  readonly fill: PlaceFill;
  readonly holds: Holding;
  readonly bytesPerSecond: number | null;
  /** Name of its device as the house says; null: as the system says. */
  readonly device: string | null;
  readonly mark: string;
  /** Does anything tally there? Until then it gets its mark when it is first seen. */
  readonly used: boolean;
  /** Stations that mount it. */
  readonly stations: readonly string[];
}

/** Off-site copies and archives are filled later unless the house says otherwise. */
const fillOf = ({ fill, kind }: PlaceSetting): PlaceFill =>
  fill ?? (kind === 'off-site copy' || kind === 'archive' ? 'later' : 'with the card');

/**
 * Writes the places of a station's settings; each keeps the mark it got when it was first seen. One that no station's
 * settings name any more is kept for what it holds, but asked for nothing. Call it in a transaction.
 * @returns the places that are new and filled later: they wait for what was filed before.
 */
export async function savePlaces(
  tx: Db,
  station: string,
  places: readonly PlaceSetting[],
  newMark: () => string,
): Promise<string[]> {
  const waiting: string[] = [];
  for (const [position, place] of places.entries()) {
    const fill = fillOf(place);
    const [{ isNew }] = await tx.query<[{ isNew: boolean }]>(
      `insert into place (id, name, kind, required, position, mark, device, fill, holds_kinds, holds_assignments, bytes_per_second)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)
       on conflict (id) do update set name = $2, kind = $3, required = $4, position = $5, device = $7, fill = $8,
         holds_kinds = $9, holds_assignments = $10, bytes_per_second = $11
       returning xmax = 0 as "isNew"`,
      [
        ...[place.id, place.name, place.kind, place.required, position, newMark(), place.device ?? null],
        ...[fill, place.holds.kinds ?? null, place.holds.assignments ?? null, place.bytesPerSecond ?? null],
      ],
    );
    if (isNew && fill === 'later') waiting.push(place.id);
  }
  const ids = places.map(({ id }) => id);
  await tx.query('delete from place_known where station = $1 and place_id <> all($2::text[])', [station, ids]);
  await tx.query('insert into place_known (place_id, station) select id, $1 from unnest($2::text[]) id on conflict do nothing', [
    ...[station, ids],
  ]);
  await tx.query(
    `update place set required = false, fill = 'later'
     where not exists (select from place_known k where k.place_id = place.id) and (required or fill <> 'later')`,
  );
  return waiting;
}

/** Every place; its root is where this station's settings mount it, '' where they do not. */
export async function listPlaces({ db, settings }: Pick<House, 'db' | 'settings'>): Promise<PlaceRow[]> {
  const rows: (Omit<PlaceRow, 'holds' | 'root'> & { kinds: Kind[] | null; assignments: string[] | null })[] = await db.query(
    `select id, name, kind, required, fill, device, mark, bytes_per_second as "bytesPerSecond", holds_kinds as kinds,
       holds_assignments as assignments, exists (select from place_known k where k.place_id = place.id) as known,
       exists (select from copy c where c.place_id = place.id and c.state = 'tallied') as used,
       array(select k.station from place_known k where k.place_id = place.id order by k.station) as stations
     from place order by position`,
  );
  const roots = new Map(settings.places.map(({ id, root }) => [id, root]));
  return rows.map(({ kinds, assignments, ...place }) => ({
    ...place,
    root: roots.get(place.id) ?? '',
    holds: { kinds, assignments },
  }));
}

export interface PlaceTotals {
  readonly copies: number;
  readonly bytes: number;
  /** What it does not have yet of what is filed elsewhere. */
  readonly waiting: number;
  readonly waitingBytes: number;
  readonly oldestWaiting: Date | null;
}

export const NOTHING_YET: PlaceTotals = { copies: 0, bytes: 0, waiting: 0, waitingBytes: 0, oldestWaiting: null };

export async function placeTotals(db: Db): Promise<Map<string, PlaceTotals>> {
  const rows: (PlaceTotals & { id: string })[] = await db.query(
    `select c.place_id as id, count(*) filter (where c.state = 'tallied')::int as copies,
       coalesce(sum(f.bytes) filter (where c.state = 'tallied'), 0)::bigint as bytes,
       count(*) filter (where c.state <> 'tallied' and f.hash is not null)::int as waiting,
       coalesce(sum(f.bytes) filter (where c.state <> 'tallied' and f.hash is not null), 0)::bigint as "waitingBytes",
       min(f.filed_at) filter (where c.state <> 'tallied') as "oldestWaiting"
     from copy c join filed_item f on f.id = c.filed_item_id group by 1`,
  );
  return new Map(rows.map((row) => [row.id, row]));
}

/** Ids of places in the order of the stick's rows, and whether a card counts as filed only when they have it. */
export async function placesInOrder(db: Db): Promise<{ id: string; counts: boolean }[]> {
  return db.query(`select id, required and fill = 'with the card' as counts from place order by position`);
}
