import type { CopyState } from '@tally/core/copies';
import type { Placement } from '@tally/core/plan';
import { foldName, pathIn } from '@tally/core/rule';
import { setStands } from '../../crediting/index.js';
import { type Db, inTransaction } from '../../db/database.js';

/** Folded names promised in these folders, folded, by whatever intake. */
export async function promisedNames(
  db: Db,
  foldedFolders: readonly string[],
): Promise<{ foldedFolder: string; name: string; folder: string }[]> {
  return db.query('select folded_folder as "foldedFolder", name, folder from filed_item where folded_folder = any($1::text[])', [
    foldedFolders,
  ]);
}

/** Promises names: the filed items of a plan, with a waiting copy at each place that must hold it. */
export async function promise(
  db: Db,
  intakeId: number,
  placements: readonly Placement[],
  placesOf: (placement: Placement) => readonly string[],
): Promise<void> {
  for (let from = 0; from < placements.length; from += 1000) {
    const some = placements.slice(from, from + 1000);
    const copies = some.flatMap((p) => placesOf(p).map((placeId) => [p, placeId] as const));
    await db.query(
      `with filed as (
         insert into filed_item (intake_id, item_id, folder, folded_folder, name, folded_path, n, bytes, list_folder, folded_list_folder)
         select $1, p.* from unnest($2::int[], $3::text[], $4::text[], $5::text[], $6::text[], $7::int[], $8::bigint[], $11::text[], $12::text[]) as p
         returning id, item_id)
       insert into copy (filed_item_id, place_id, state) select filed.id, c.place_id, 'waiting'
       from filed join unnest($9::int[], $10::text[]) as c(item_id, place_id) on c.item_id = filed.item_id`,
      [
        intakeId,
        some.map((p) => p.itemId),
        some.map((p) => p.folder),
        some.map((p) => foldName(p.folder)),
        some.map((p) => p.name),
        some.map((p) => foldName(pathIn(p.folder, p.name))),
        some.map((p) => p.n),
        some.map((p) => p.bytes),
        copies.map(([p]) => p.itemId),
        copies.map(([, placeId]) => placeId),
        some.map((p) => p.base ?? p.folder),
        some.map((p) => foldName(p.base ?? p.folder)),
      ],
    );
  }
}

/** A promised item with copies that do not tally yet. */
export interface Unfinished {
  readonly filedItemId: number;
  readonly itemId: number;
  readonly path: string;
  readonly pathBytes: Buffer;
  readonly bytes: number;
  readonly modifiedAt: Date;
  readonly folder: string;
  readonly name: string;
  readonly hash: Buffer | null;
  /** Fast identity of the file when it was read first; null where that is not known. */
  readonly quickHash: Buffer | null;
  /** Places whose copy does not tally, and those whose copy does. */
  readonly waiting: readonly string[];
  readonly tallied: readonly string[];
}

/** What an intake still wants at places that are filled with the card. */
export async function unfinished(db: Db, intakeId: number): Promise<Unfinished[]> {
  return db.query(
    `select f.id as "filedItemId", i.id as "itemId", i.path, i.path_bytes as "pathBytes", f.bytes, i.modified_at as "modifiedAt",
       f.folder, f.name, f.hash, i.quick_hash as "quickHash",
       array_agg(c.place_id order by p.position) filter (where c.state <> 'tallied' and p.fill = 'with the card') as waiting,
       coalesce(array_agg(c.place_id order by p.position) filter (where c.state = 'tallied'), '{}') as tallied
     from filed_item f join item i on i.id = f.item_id join copy c on c.filed_item_id = f.id join place p on p.id = c.place_id
     where f.intake_id = $1 group by f.id, i.id having bool_or(c.state <> 'tallied' and p.fill = 'with the card') order by f.folder, f.n, f.name`,
    [intakeId],
  );
}

/** Intakes of a station whose card is here and that want copies at one of these places which only the card can give. */
export async function intakesWaitingAt(db: Db, station: string, placeIds: readonly string[]): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>(
    `select i.id from intake i where i.station = $1 and i.present and i.state = 'needs attention' and exists (
       select from filed_item f join copy c on c.filed_item_id = f.id
       where f.intake_id = i.id and c.place_id = any($2::text[]) and c.state in ('waiting', 'copying')
         and not exists (select from copy t where t.filed_item_id = f.id and t.state = 'tallied')) order by i.id`,
    [station, placeIds],
  );
  return rows.map(({ id }) => id);
}

/** Intakes of a station whose card is here and whose copies failed at one of these places, where only the card can give them. */
export async function intakesFailedAt(db: Db, station: string, placeIds: readonly string[]): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>(
    `select i.id from intake i where i.station = $1 and i.present and i.state = 'needs attention' and exists (
       select from filed_item f join copy c on c.filed_item_id = f.id
       where f.intake_id = i.id and c.place_id = any($2::text[]) and c.state in ('waiting', 'copying') and c.problem is not null
         and not exists (select from copy t where t.filed_item_id = f.id and t.state = 'tallied')) order by i.id`,
    [station, placeIds],
  );
  return rows.map(({ id }) => id);
}

/** Says why a place that is not there did not get what an intake wants there. */
export async function waitForPlace(db: Db, intakeId: number, placeId: string, problem: string): Promise<void> {
  await db.query(
    `update copy c set problem = $3 from filed_item f where f.id = c.filed_item_id and f.intake_id = $1 and c.place_id = $2
       and c.state in ('waiting', 'copying')`,
    [intakeId, placeId, problem],
  );
}

/** Intakes (or this one) that need attention though every copy that a card must be filed to tallies. */
export async function wholeButTroubled(db: Db, intakeId: number | null = null): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>(
    `select i.id from intake i where i.state = 'needs attention' and ($1::int is null or i.id = $1)
       and exists (select from filed_item f where f.intake_id = i.id)
       and not exists (select from filed_item f join copy c on c.filed_item_id = f.id join place p on p.id = c.place_id
         where f.intake_id = i.id and c.state <> 'tallied' and p.required and p.fill = 'with the card')`,
    [intakeId],
  );
  return rows.map(({ id }) => id);
}

/** The outcome of working on one copy. */
export interface CopyOutcome {
  readonly filedItemId: number;
  readonly placeId: string;
  readonly state: CopyState;
  readonly talliedAt: Date | null;
  readonly proof: string | null;
  readonly problem: string | null;
  /** Number of what was put into it; 0: it is what it was on the card, to the byte. */
  readonly version: number;
}

/** Writes outcomes of copies and the hashes of their sources, in one transaction. */
export async function writeOutcomes(
  db: Db,
  copies: readonly CopyOutcome[],
  sources: readonly { filedItemId: number; hash: Buffer; quickHash: Buffer; filedAt: Date }[],
): Promise<void> {
  await db.transaction(async (tx) => {
    await tx.query(
      `update copy set state = o.state, tallied_at = o.tallied_at, proof = o.proof, problem = o.problem
       from unnest($1::int[], $2::text[], $3::text[], $4::timestamptz[], $5::text[], $6::text[])
         as o(filed_item_id, place_id, state, tallied_at, proof, problem)
       where copy.filed_item_id = o.filed_item_id and copy.place_id = o.place_id`,
      [
        copies.map((c) => c.filedItemId),
        copies.map((c) => c.placeId),
        copies.map((c) => c.state),
        copies.map((c) => c.talliedAt),
        copies.map((c) => c.proof),
        copies.map((c) => c.problem),
      ],
    );
    await tx.query(
      `update filed_item set hash = s.hash, quick_hash = s.quick_hash, filed_at = coalesce(filed_item.filed_at, s.filed_at)
       from unnest($1::int[], $2::bytea[], $3::bytea[], $4::timestamptz[]) as s(id, hash, quick_hash, filed_at)
       where filed_item.id = s.id`,
      [
        sources.map((s) => s.filedItemId),
        sources.map((s) => s.hash),
        sources.map((s) => s.quickHash),
        sources.map((s) => s.filedAt),
      ],
    );
    await setStands(
      tx,
      copies.filter(({ state }) => state === 'tallied'),
    );
  });
}

/** Takes promises back: these items were never filed. Only such as tally nowhere. */
export async function withdraw(db: Db, filedItemIds: readonly number[]): Promise<void> {
  await inTransaction(db, async (tx) => {
    // The copies first: places are counted by what their filed items say.
    await tx.query(
      `delete from copy c where c.filed_item_id = any($1::int[])
       and not exists (select from copy t where t.filed_item_id = c.filed_item_id and t.state = 'tallied')`,
      [filedItemIds],
    );
    await tx.query(
      `delete from filed_item f where f.id = any($1::int[]) and not exists (select from copy c where c.filed_item_id = f.id)`,
      [filedItemIds],
    );
  });
}

/** What was promised to these items, and whether a copy of it tallies anywhere. */
export async function filingOf(
  db: Db,
  intakeId: number,
  itemIds: readonly number[],
): Promise<{ filedItemId: number; path: string; tallied: boolean }[]> {
  return db.query(
    `select f.id as "filedItemId", i.path, exists (select from copy c where c.filed_item_id = f.id and c.state = 'tallied') as tallied
     from filed_item f join item i on i.id = f.item_id where f.intake_id = $1 and i.id = any($2::int[]) order by i.path`,
    [intakeId, itemIds],
  );
}

/** Gives a promised item another name. @returns false when that one is promised to somebody already. */
export async function renamePromise(db: Db, filedItemId: number, folder: string, name: string): Promise<boolean> {
  const [, count]: [unknown, number] = await db.query(
    `update filed_item set name = $2, folded_path = $3 where id = $1
     and not exists (select from filed_item o where o.folded_path = $3 and o.id <> $1)`,
    [filedItemId, name, foldName(pathIn(folder, name))],
  );
  return count === 1;
}

/** What was filed of an intake, by item, with every copy and how it was proven. */
export async function proofsOf(
  db: Db,
  intakeId: number,
): Promise<
  Map<
    number,
    {
      path: string;
      hash: string | null;
      filedAt: Date | null;
      copies: { place: string; state: CopyState; proof: string | null; problem: string | null }[];
    }
  >
> {
  const rows: { itemId: number; path: string; hash: string | null; filedAt: Date | null; copies: [] }[] = await db.query(
    `select f.item_id as "itemId", concat_ws('/', nullif(f.folder, ''), f.name) as path, encode(f.hash, 'hex') as hash,
       f.filed_at as "filedAt", json_agg(json_build_object('place', c.place_id, 'state', c.state, 'proof', c.proof, 'problem', c.problem) order by c.place_id) as copies
     from filed_item f join copy c on c.filed_item_id = f.id where f.intake_id = $1 group by f.id`,
    [intakeId],
  );
  return new Map(rows.map(({ itemId, ...row }) => [itemId, row]));
}

/** Every copy of an intake with its hash, for the log and for programs. */
export async function copiesOf(
  db: Db,
  intakeId: number,
): Promise<
  { from: string; to: string; hash: string | null; copies: { place: string; state: CopyState; problem: string | null }[] }[]
> {
  return db.query(
    `select i.path as "from", concat_ws('/', nullif(f.folder, ''), f.name) as "to", encode(f.hash, 'hex') as hash,
       json_agg(json_build_object('place', c.place_id, 'state', c.state, 'problem', c.problem) order by p.position) as copies
     from filed_item f join item i on i.id = f.item_id join copy c on c.filed_item_id = f.id join place p on p.id = c.place_id
     where f.intake_id = $1 group by f.id, i.id order by f.folder, f.n, f.name`,
    [intakeId],
  );
}

/** A place that is new waits for everything that it must hold of what was filed before. */
export async function waitForAll(db: Db, placeId: string): Promise<void> {
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

/** A copy as settling looks at it. */
export interface CopyOf {
  readonly state: CopyState;
  /** Path of its item on the card. */
  readonly path: string;
  readonly bytes: number;
  readonly problem: string | null;
}

/** The copies that must tally before an intake does. */
export async function copyStates(db: Db, intakeId: number): Promise<CopyOf[]> {
  return db.query(
    `select c.state, i.path, f.bytes, c.problem from copy c join place p on p.id = c.place_id join filed_item f on f.id = c.filed_item_id
     join item i on i.id = f.item_id where f.intake_id = $1 and p.required and p.fill = 'with the card' order by i.path`,
    [intakeId],
  );
}

/** Camera bodies of an intake, and whose items they took: an item's own contributor, else the given one. */
export async function bodiesUsed(
  db: Db,
  intakeId: number,
  contributorId: number | null,
): Promise<{ make: string; model: string; serial: string; contributorId: number | null }[]> {
  return db.query(
    `select distinct coalesce(make, '') as make, coalesce(model, '') as model, serial, coalesce(contributor_id, $2) as "contributorId"
     from item where intake_id = $1 and serial is not null`,
    [intakeId, contributorId],
  );
}

/** Filing takes up what waits at places that are filled with the card. */
export async function beginCopies(db: Db, intakeId: number): Promise<void> {
  await db.query(
    `update copy c set state = 'copying', problem = null from filed_item f, place p
     where f.id = c.filed_item_id and p.id = c.place_id and f.intake_id = $1 and c.state = 'waiting' and p.fill = 'with the card'`,
    [intakeId],
  );
}

/** Filling takes up what a place waits for and nothing moves there. @returns what it took. */
export async function takeUpCopies(db: Db, placeId: string, filedItemIds: readonly number[]): Promise<number[]> {
  const [taken]: [{ id: number }[], number] = await db.query(
    `update copy c set state = 'copying' where c.place_id = $1 and c.filed_item_id = any($2::int[]) and c.state in ('waiting', 'copying')
       and not is_moving(c.filed_item_id, c.place_id) returning c.filed_item_id as id`,
    [placeId, filedItemIds],
  );
  return taken.map(({ id }) => id);
}

/** What was taken up and is not worked on waits again. */
export async function restCopies(db: Db, intakeId: number): Promise<void> {
  await db.query(
    `update copy c set state = 'waiting' from filed_item f where f.id = c.filed_item_id and f.intake_id = $1 and c.state = 'copying'`,
    [intakeId],
  );
}

/** Copies that tallied and are not at their place any more; one that is being moved there is not missing. @returns how many were not known to be missing. */
export async function markMissing(db: Db, copies: readonly { filedItemId: number; placeId: string }[]): Promise<number> {
  const [, count]: [unknown, number] = await db.query(
    `update copy c set state = 'missing', problem = 'it is not at its place any more'
     from unnest($1::int[], $2::text[]) as m(filed_item_id, place_id)
     where c.filed_item_id = m.filed_item_id and c.place_id = m.place_id and c.state = 'tallied' and not is_moving(c.filed_item_id, c.place_id)`,
    [copies.map(({ filedItemId }) => filedItemId), copies.map(({ placeId }) => placeId)],
  );
  return count;
}

/** Copies that tallied and do not any more: somebody changed them (`differs`), or their place does not give out their bytes. */
export async function markSpoilt(
  db: Db,
  copies: readonly { filedItemId: number; placeId: string }[],
  state: 'differs' | 'unreadable',
  problem: string,
): Promise<void> {
  await db.query(
    `update copy c set state = $3, problem = $4 from unnest($1::int[], $2::text[]) as m(filed_item_id, place_id)
     where c.filed_item_id = m.filed_item_id and c.place_id = m.place_id and c.state = 'tallied' and not is_moving(c.filed_item_id, c.place_id)`,
    [copies.map(({ filedItemId }) => filedItemId), copies.map(({ placeId }) => placeId), state, problem],
  );
}
