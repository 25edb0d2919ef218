import type { PlaceFill } from '@tally/contract';
import type { Kind } from '@tally/core/card';
import type { Holding } from '@tally/core/copies';
import type { PlaceSetting } from '../settings.js';
import type { Db } from '../db/database.js';

export interface PlaceRow {
  readonly id: string;
  readonly name: string;
  readonly kind: PlaceSetting['kind'];
  readonly root: string;
  readonly required: boolean;
  readonly fill: PlaceFill;
  readonly holds: Holding;
  readonly bytesPerSecond: number | null;
  /** Name of its device as the house says; null: as the system says. */
  readonly device: string | null;
  readonly mark: string;
}

/** Off-site copies and archives are filled later unless the house says otherwise. */
const fillOf = ({ fill, kind }: PlaceSetting): PlaceFill =>
  fill ?? (kind === 'off-site copy' || kind === 'archive' ? 'later' : 'with the card');

/**
 * Writes the places of the settings; each keeps the mark it got when it was first seen. A new place that is filled later
 * waits for everything that it must hold of what was filed before.
 */
export async function savePlaces(db: Db, places: readonly PlaceSetting[], newMark: () => string): Promise<void> {
  for (const [position, place] of places.entries()) {
    const fill = fillOf(place);
    const [{ isNew }] = await db.query<[{ isNew: boolean }]>(
      `insert into place (id, name, kind, root, required, position, mark, device, fill, holds_kinds, holds_assignments, bytes_per_second)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12)
       on conflict (id) do update set name = $2, kind = $3, root = $4, required = $5, position = $6, device = $8, fill = $9,
         holds_kinds = $10, holds_assignments = $11, bytes_per_second = $12
       returning xmax = 0 as "isNew"`,
      [
        ...[place.id, place.name, place.kind, place.root, place.required, position, newMark(), place.device ?? null],
        ...[fill, place.holds.kinds ?? null, place.holds.assignments ?? null, place.bytesPerSecond ?? null],
      ],
    );
    if (isNew && fill === 'later') await waitForAll(db, place.id);
  }
}

async function waitForAll(db: Db, placeId: string): Promise<void> {
  await db.query(
    `insert into copy (filed_item_id, place_id, state) select f.id, p.id, 'waiting' from filed_item f
       join item i on i.id = f.item_id join intake n on n.id = f.intake_id
       left join assignment a on a.id = coalesce(i.assignment_id, n.assignment_id) join place p on p.id = $1
     where f.hash is not null and (p.holds_kinds is null or i.kind = any(p.holds_kinds))
       and (p.holds_assignments is null or a.slug = any(p.holds_assignments))
     on conflict do nothing`,
    [placeId],
  );
}

export async function listPlaces(db: Db): Promise<PlaceRow[]> {
  const rows: (Omit<PlaceRow, 'holds'> & { kinds: Kind[] | null; assignments: string[] | null })[] = await db.query(
    `select id, name, kind, root, required, fill, device, mark, bytes_per_second as "bytesPerSecond", holds_kinds as kinds,
       holds_assignments as assignments from place order by position`,
  );
  return rows.map(({ kinds, assignments, ...place }) => ({ ...place, holds: { kinds, assignments } }));
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
