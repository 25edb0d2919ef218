import type { Consent, Stance } from '@tally/core/credit';
import type { Kind } from '@tally/core/card';
import type { RecordKind, ShelfRecords } from '@tally/core/find';
import type { Db } from '../../db/database.js';
import { nameOfWord } from '../../people/index.js';

/* What the shelf in memory is made of, and what changed of it since it was. */

/** A filed item as it is read. */
export interface KeptItem {
  readonly id: number;
  readonly intake: number;
  readonly object: number;
  readonly local: string;
  readonly kind: Kind;
  readonly contributor: number | null;
  readonly assignment: number | null;
  readonly make: string | null;
  readonly model: string | null;
  readonly folder: string;
  readonly name: string;
  readonly onCard: string;
  readonly description: string;
  readonly words: number[] | null;
  readonly notWords: number[] | null;
  readonly pictured: number[] | null;
  readonly location: number | null;
  readonly terms: number | null;
  readonly creditLine: string | null;
  readonly verdict: string | null;
  readonly sound: boolean;
  readonly copies: number;
  readonly bytes: number;
  readonly filedOn: string;
  readonly filedAtMs: number;
  readonly filedId: number;
  readonly look: string | null;
}

/**
 * Filed items; what leads an object speaks for its companions (looked for among the items of their intakes: on other cards
 * many files have the same path). @param of a condition on `filed_item`, without its alias;
 * $2: the house's zone
 */
const keptItems = (of: string) => `
  with mine as materialized (select l.id, l.intake_id, l.path, l.leader, l.kind, l.contributor_id, l.assignment_id, l.make, l.model,
      l.captured_local, l.description, l.verdict, l.clip, l.look
    from item l where l.intake_id in (select o.intake_id from filed_item o where o.${of}))
  select i.id, i.intake_id as intake, coalesce(l.id, i.id) as object, coalesce(l.captured_local, i.captured_local) as local, i.kind,
    i.contributor_id as contributor, i.assignment_id as assignment, i.make, i.model, f.folder, f.name, i.path || coalesce((select ' ' || string_agg(o.path, ' ' order by o.id) from former_path o where o.filed_item_id = f.id), '') as "onCard",
    coalesce(nullif(i.description, ''), l.description, '') as description, w.words, w."notWords", p.pictured,
    ic.location_id as location, ic.terms_id as terms, ic.credit_line as "creditLine", coalesce(i.verdict, l.verdict) as verdict,
    i.kind = 'sound' or coalesce((i.clip->>'channels')::int, 0) > 0 as sound, coalesce(c.copies, 0) as copies, f.bytes,
    to_char(f.filed_at at time zone $2, 'YYYY-MM-DD') as "filedOn", floor(extract(epoch from f.filed_at) * 1000)::double precision as "filedAtMs", f.id as "filedId", encode(i.look, 'hex') as look
  from filed_item f join mine i on i.id = f.item_id
  left join mine l on l.intake_id = i.intake_id and l.path = i.leader and i.leader <> i.path
  left join item_credit ic on ic.item_id = i.id
  left join (select o.item_id, array_agg(s.word_id order by s.word_id) filter (where s.has) as words,
      array_agg(s.word_id order by s.word_id) filter (where not s.has) as "notWords"
    from filed_item o join item_word s on s.item_id = o.item_id where o.${of} group by 1) w on w.item_id = i.id
  left join (select o.item_id, array_agg(s.pictured_id order by s.pictured_id) as pictured
    from filed_item o join item_pictured s on s.item_id = o.item_id where o.${of} group by 1) p on p.item_id = i.id
  left join (select o.id, count(*) filter (where s.state = 'tallied')::int as copies
    from filed_item o join copy s on s.filed_item_id = o.id where o.${of} group by 1) c on c.id = f.id
  where f.${of} and f.filed_at is not null and f.hash is not null order by f.id`;

export const keptOfIntakes = (db: Db, intakeIds: readonly number[], zone: string): Promise<KeptItem[]> =>
  db.query<KeptItem[]>(keptItems('intake_id = any($1::int[])'), [intakeIds, zone]);

export const keptOfItems = (db: Db, itemIds: readonly number[], zone: string): Promise<KeptItem[]> =>
  db.query<KeptItem[]>(keptItems('item_id = any($1::int[])'), [itemIds, zone]);

/** An intake with the number of its items that are filed. */
const keptIntakes = (of: string) => `
  select n.id, n.number, coalesce(d.label, d.volume) as label, n.contributor_id as contributor, n.assignment_id as assignment,
    n.location_id as location, n.terms_id as terms, n.credit_line as "creditLine", n.filed,
    array(select w.word_id from intake_word w where w.intake_id = n.id order by 1) as words
  from intake n join card d on d.id = n.card_id where n.${of} order by n.id`;

/** So many intakes are read at once. */
export const INTAKES_AT_ONCE = 5000;

type KeptIntake = ShelfRecords['intake'] & { readonly filed: number };

export const intakesAfter = (db: Db, id: number): Promise<KeptIntake[]> =>
  db.query<KeptIntake[]>(`${keptIntakes('id > $1')} limit $2`, [id, INTAKES_AT_ONCE]);

const intakesNow = (db: Db, ids: readonly number[]): Promise<KeptIntake[]> =>
  db.query<KeptIntake[]>(keptIntakes('id = any($1::int[])'), [ids]);

/** Records of a kind; null: all of them. */
type Reader<K extends RecordKind> = (db: Db, ids: readonly number[] | null) => Promise<ShelfRecords[K][]>;

const contributors: Reader<'contributor'> = (db, ids) =>
  db.query<ShelfRecords['contributor'][]>(
    `select k.id, k.code, k.name, k.terms_id as terms, k.minor,
       array_prepend(k.code, array(select o.code from former_code o where o.contributor_id = k.id order by 1)) as codes
     from contributor k where $1::int[] is null or k.id = any($1::int[])`,
    [ids],
  );

const assignments: Reader<'assignment'> = (db, ids) =>
  db.query<ShelfRecords['assignment'][]>(
    `select a.id, a.slug, a.title, a.code, a.place as where, a.location_id as location, a.terms_id as terms,
       to_char(a.embargo_until, 'YYYY-MM-DD') as "embargoUntil",
       array(select w.word_id from assignment_word w where w.assignment_id = a.id order by 1) as words
     from assignment a where $1::int[] is null or a.id = any($1::int[])`,
    [ids],
  );

const words: Reader<'word'> = (db, ids) =>
  db.query<ShelfRecords['word'][]>(
    `select w.id, array_prepend(${nameOfWord('w.id')}, array(select distinct l.text from word_label l where l.word_id = w.id order by 1)) as names,
       array(select b.broader_id from word_broader b where b.word_id = w.id order by 1) as broader
     from word w where $1::int[] is null or w.id = any($1::int[])`,
    [ids],
  );

const locations: Reader<'location'> = (db, ids) =>
  db.query<ShelfRecords['location'][]>(
    `select id, name, concat_ws(' ', part, town, region) as where from location where $1::int[] is null or id = any($1::int[])`,
    [ids],
  );

const pictured: Reader<'pictured'> = (db, ids) =>
  db.query<{ id: number; name: string; consent: Consent; until: string | null; purpose: string }[]>(
    `select id, name, consent, to_char(until, 'YYYY-MM-DD') as until, purpose from pictured where $1::int[] is null or id = any($1::int[])`,
    [ids],
  );

const terms: Reader<'terms'> = (db, ids) =>
  db.query<{ id: number; name: string; stance: Stance; until: string | null }[]>(
    `select id, name, stance, to_char(until, 'YYYY-MM-DD') as until from terms where $1::int[] is null or id = any($1::int[])`,
    [ids],
  );

const bundles: Reader<'bundle'> = (db, ids) =>
  db.query<ShelfRecords['bundle'][]>(
    `select b.id, b.name, b.parent_id as parent,
       array(select i.item_id from bundle_item i where i.bundle_id = b.id order by i.position, i.item_id) as items
     from bundle b where $1::int[] is null or b.id = any($1::int[])`,
    [ids],
  );

const intakes: Reader<'intake'> = (db, ids) => (ids === null ? Promise.resolve([]) : intakesNow(db, ids));

/** How each kind of record is read. Intakes are many: all of them are read by `intakesAfter`. */
export const READERS: { readonly [K in RecordKind]: Reader<K> } = {
  ...{ contributor: contributors, assignment: assignments, word: words, location: locations },
  ...{ pictured, terms, bundle: bundles, intake: intakes },
};

/** What the house says for itself. */
export async function houseTerms(db: Db): Promise<number | null> {
  const rows = await db.query<{ terms: number | null }[]>('select terms_id as terms from house_credit where id = 1');
  return rows[0]?.terms ?? null;
}

export interface ShelfChanged {
  readonly id: number;
  readonly xact: number;
  readonly of: string;
  readonly ids: number[];
}

/** The oldest transaction that is still open: everything before it can be seen. */
export async function openSince(db: Db): Promise<number> {
  const [{ xact }] = await db.query<[{ xact: number }]>('select pg_snapshot_xmin(pg_current_snapshot())::text::bigint as xact');
  return xact;
}

/** What transactions changed, from one on, that can be seen now. */
export async function changesSince(db: Db, xact: number): Promise<ShelfChanged[]> {
  return db.query('select id, xact, of, ids from shelf_change where xact >= $1 order by id', [xact]);
}

export async function itemsOfFiled(db: Db, filedIds: readonly number[]): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>('select item_id as id from filed_item where id = any($1::int[])', [filedIds]);
  return rows.map(({ id }) => id);
}

/** Filed items of the objects that these lead. */
export async function itemsOfObjects(db: Db, leadIds: readonly number[]): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>(
    `select i.id from item l join item i on i.intake_id = l.intake_id and (i.leader = l.path or i.id = l.id)
     where l.id = any($1::int[]) and exists (select from filed_item f where f.item_id = i.id)`,
    [leadIds],
  );
  return rows.map(({ id }) => id);
}

export async function intakesOfCards(db: Db, cardIds: readonly number[]): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>('select id from intake where card_id = any($1::int[])', [cardIds]);
  return rows.map(({ id }) => id);
}

/** Forgets what changed long ago: nobody follows from there. */
export async function forgetChanges(db: Db, olderThanHours: number): Promise<void> {
  await db.query(`delete from shelf_change where at < now() - make_interval(hours => $1)`, [olderThanHours]);
}
