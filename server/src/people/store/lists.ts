import type { HouseListName } from '@tally/contract';
import type { EntityTarget } from 'typeorm';
import { HabitRow, LocationRow, PicturedRow, TermsRow } from '../../db/entities/credit.js';
import type { AnswerField, Answers, Belonging } from '@tally/core/credit';
import type { Db } from '../../db/database.js';
import { turnReferences } from '../../db/one-of-two.js';

/** What every entry of a list of the house has. */
export interface Entry {
  id: number;
  name: string;
  retiredAt: Date | null;
  revision: number;
}

const ROWS: Readonly<Record<HouseListName, EntityTarget<Entry>>> = {
  terms: TermsRow,
  locations: LocationRow,
  pictured: PicturedRow,
  habits: HabitRow,
};

/** Items of an assignment or a contributor that says something, where the item is theirs. */
const ofSpeaker = (table: 'assignment' | 'contributor', says: string) =>
  `select i.id from ${table} a join intake_part p on p.${table}_id = a.id join intake n on n.id = p.intake_id
     join item i on i.intake_id = n.id and coalesce(i.${table}_id, n.${table}_id) = a.id where a.${says} = $1`;

/** Items that an entry is said of, one by one or by their slip, assignment or contributor. */
const ITEMS_OF: Readonly<Record<HouseListName, string>> = {
  terms: `select c.item_id from item_credit c where c.terms_id = $1
    union select i.id from item i join intake n on n.id = i.intake_id where n.terms_id = $1
    union ${ofSpeaker('assignment', 'terms_id')} union ${ofSpeaker('contributor', 'terms_id')}`,
  locations: `select c.item_id from item_credit c where c.location_id = $1
    union select i.id from item i join intake n on n.id = i.intake_id where n.location_id = $1
    union ${ofSpeaker('assignment', 'location_id')}`,
  pictured: `select p.item_id from item_pictured p where p.pictured_id = $1`,
  habits: `select null::int as item_id where $1 < 0`,
};

export const itemsOfEntry = (list: HouseListName): string => ITEMS_OF[list];

export const entries = (db: Db, list: HouseListName): Promise<Entry[]> =>
  db.getRepository(ROWS[list]).find({ order: { name: 'ASC', id: 'ASC' } });

/** An entry, kept against others until the transaction ends. */
export const holdEntry = (db: Db, list: HouseListName, id: number): Promise<Entry | null> =>
  db.getRepository(ROWS[list]).findOne({ where: { id }, lock: { mode: 'pessimistic_write' } });

export const entryNamed = (db: Db, list: HouseListName, name: string): Promise<Entry | null> =>
  db.getRepository(ROWS[list]).createQueryBuilder('e').where('lower(e.name) = lower(:name)', { name }).getOne();

export async function insertEntry(db: Db, list: HouseListName, said: object): Promise<number> {
  const repository = db.getRepository(ROWS[list]);
  return (await repository.save(repository.create(said as Partial<Entry>))).id;
}

export async function updateEntry(db: Db, list: HouseListName, id: number, change: object): Promise<void> {
  await db.getRepository(ROWS[list]).update(id, change);
}

const TABLES: Readonly<Record<HouseListName, string>> = {
  terms: 'terms',
  locations: 'location',
  pictured: 'pictured',
  habits: 'habit',
};

/** Whatever speaks of one entry speaks of another from now on; the one is removed. */
export async function mergeEntry(db: Db, list: HouseListName, id: number, into: number): Promise<void> {
  await turnReferences(db, TABLES[list], id, into);
  if (list === 'terms' || list === 'locations') await turnAnswers(db, list === 'terms' ? 'termsId' : 'locationId', id, into);
  await db.getRepository(ROWS[list]).delete(id);
}

/** Habits that answered with the one answer with the other. */
export async function turnAnswers(db: Db, field: AnswerField, id: number, into: number): Promise<void> {
  await db.query(
    `update habit set answers = jsonb_set(answers, array[$3::text], to_jsonb($2::int)) where answers->$3::text = to_jsonb($1::int)`,
    [id, into, field],
  );
}

/** How many items show each person. */
export async function shownCounts(db: Db): Promise<Map<number, number>> {
  const rows = await db.query<{ id: number; items: number }[]>(
    'select pictured_id as id, count(*)::int as items from item_pictured group by 1',
  );
  return new Map(rows.map(({ id, items }) => [id, items]));
}

/** Names of what habits belong to. */
export async function namesOfBelongings(db: Db): Promise<Map<string, string>> {
  const rows = await db.query<{ key: string; name: string }[]>(
    `select 'contributor ' || c.id as key, c.name from habit h join contributor c on h.belongs = 'contributor' and h.of = c.id::text
     union select 'assignment ' || a.id, a.title from habit h join assignment a on h.belongs = 'assignment' and h.of = a.id::text
     union select 'card ' || k.id, coalesce(k.label, k.volume) from habit h join card k on h.belongs = 'card' and h.of = k.id::text`,
  );
  return new Map(rows.map(({ key, name }) => [key, name]));
}

/** Pictured people by name; those whom nobody knows are added, to be asked. */
export async function picturedCalled(db: Db, names: readonly string[]): Promise<number[]> {
  await db.query(
    `insert into pictured (name) select distinct on (lower(n)) n from unnest($1::text[]) n
     where not exists (select from pictured p where lower(p.name) = lower(n)) on conflict (name) do nothing`,
    [names],
  );
  const rows = await db.query<{ id: number }[]>(
    'select p.id from pictured p where lower(p.name) in (select lower(n) from unnest($1::text[]) n)',
    [names],
  );
  return rows.map(({ id }) => id);
}

/** What a habit speaks of and is not there; null: all of it is. */
export async function missingOf(
  db: Db,
  { contributorId, assignmentId, wordIds, locationId, termsId }: Answers,
  belongs: Belonging | undefined,
  of: string | undefined,
): Promise<string | null> {
  const [row] = await db.query<[{ missing: string | null }]>(
    `select case
       when $1::int is not null and not exists (select from contributor where id = $1) then 'contributor'
       when $2::int is not null and not exists (select from assignment where id = $2) then 'assignment'
       when (select count(*) from word where id = any($3::int[])) < cardinality($3::int[]) then 'word'
       when $4::int is not null and not exists (select from location where id = $4) then 'location'
       when $5::int is not null and not exists (select from terms where id = $5) then 'terms'
       when $6 = 'contributor' and not exists (select from contributor where id::text = $7) then 'contributor'
       when $6 = 'assignment' and not exists (select from assignment where id::text = $7) then 'assignment'
       when $6 = 'card' and not exists (select from card where id::text = $7) then 'card'
     end as missing`,
    [
      ...[contributorId ?? null, assignmentId ?? null, [...new Set(wordIds ?? [])], locationId ?? null, termsId ?? null],
      ...[belongs ?? null, of ?? null],
    ],
  );
  return row.missing;
}

/** Names of what a change speaks of, for the log. */
export async function namesFor(
  db: Db,
  termsId: number | null | undefined,
  locationId: number | null | undefined,
): Promise<{ terms: string | null; location: string | null }> {
  const [row] = await db.query<[{ terms: string | null; location: string | null }]>(
    'select (select t.name from terms t where t.id = $1) as terms, (select l.name from location l where l.id = $2) as location',
    [termsId ?? null, locationId ?? null],
  );
  return row;
}
