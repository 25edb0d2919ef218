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
  /** Was its root marked once? Until then it gets its mark when it is first seen. */
  readonly marked: boolean;
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
       marked,
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

/** Its root carries its mark: from now on a root without one is not the place. */
export async function setMarked(db: Db, id: string): Promise<void> {
  await db.query('update place set marked = true where id = $1 and not marked', [id]);
}

/** Somebody said that a drive is the place: what stands on it is to be looked through anew. */
export async function setMarkedAnew(db: Db, id: string): Promise<void> {
  await db.query('update place set marked = true, met = 0 where id = $1', [id]);
}

/** A place is the drive that carries this mark: a house that is rebuilt from it is the one that wrote it. */
export async function setMark(tx: Db, id: string, mark: string): Promise<void> {
  await tx.query('update place set mark = $2, marked = true, met = 0 where id = $1', [id, mark]);
}

/** Places that were not looked through in an epoch for the numbers that stand there. */
export async function unmetPlaces(db: Db, epoch: number): Promise<string[]> {
  const rows = await db.query<{ id: string }[]>('select id from place where met < $1 order by id', [epoch]);
  return rows.map(({ id }) => id);
}

export async function setMet(tx: Db, id: string, epoch: number): Promise<void> {
  await tx.query('update place set met = greatest(met, $2) where id = $1', [id, epoch]);
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

/** What each place has, as it is kept. The oldest that waits is the one that was promised first. */
export async function placeTotals(db: Db): Promise<Map<string, PlaceTotals>> {
  const rows: (PlaceTotals & { id: string })[] = await db.query(
    `select t.place_id as id, sum(t.copies)::int as copies, sum(t.bytes)::bigint as bytes, sum(t.open)::int as waiting,
       sum(t.open_bytes)::bigint as "waitingBytes", case when sum(t.open) > 0 then (
         select f.filed_at from copy c join filed_item f on f.id = c.filed_item_id
         where c.place_id = t.place_id and c.state <> 'tallied' and f.filed_at is not null order by c.filed_item_id limit 1) end as "oldestWaiting"
     from place_total t group by t.place_id`,
  );
  return new Map(rows.map((row) => [row.id, row]));
}

/** Puts the lines of each place's total together once there are many. */
export async function joinPlaceTotals(db: Db, many: number): Promise<void> {
  await db.query(
    `with many as (select place_id from place_total group by 1 having count(*) > $1),
       gone as (delete from place_total t using many m where t.place_id = m.place_id
         returning t.place_id, t.copies, t.bytes, t.open, t.open_bytes, t.promised_bytes)
     insert into place_total (place_id, copies, bytes, open, open_bytes, promised_bytes)
     select place_id, sum(copies), sum(bytes), sum(open), sum(open_bytes), sum(promised_bytes) from gone group by 1`,
    [many],
  );
}

/** Keeps everybody from changing what places have until the transaction ends. */
export async function holdPlaceTotals(tx: Db): Promise<void> {
  await tx.query('lock table place_total in share row exclusive mode');
}

/** What a place has by its kept total. */
export interface KeptPlace {
  readonly id: string;
  readonly copies: number;
  readonly bytes: number;
  readonly open: number;
  readonly openBytes: number;
  readonly promisedBytes: number;
}

export async function keptPlaces(db: Db): Promise<KeptPlace[]> {
  return db.query(
    `select p.id, coalesce(sum(t.copies), 0)::int as copies, coalesce(sum(t.bytes), 0)::bigint as bytes, coalesce(sum(t.open), 0)::int as open,
       coalesce(sum(t.open_bytes), 0)::bigint as "openBytes", coalesce(sum(t.promised_bytes), 0)::bigint as "promisedBytes"
     from place p left join place_total t on t.place_id = p.id group by p.id order by p.id`,
  );
}

/** Counts every copy of the house anew. Call it in a transaction that holds the totals. */
export async function recountPlaces(tx: Db): Promise<void> {
  await tx.query('select recount_places()');
}

/** Bytes of copies that are promised to each place and not there yet. */
export async function promisedBytes(db: Db): Promise<Map<string, number>> {
  const rows = await db.query<{ id: string; bytes: number }[]>(
    'select place_id as id, sum(promised_bytes)::bigint as bytes from place_total group by 1',
  );
  return new Map(rows.map(({ id, bytes }) => [id, bytes]));
}

/** Ids of places in the order of the stick's rows, and whether a card counts as filed only when they have it. */
export async function placesInOrder(db: Db): Promise<{ id: string; counts: boolean }[]> {
  return db.query(`select id, required and fill = 'with the card' as counts from place order by position`);
}
