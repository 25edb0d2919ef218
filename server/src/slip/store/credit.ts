import type { CreditChange, IntakeCredit, WordHad } from '@tally/contract';
import type { AnsweredBy } from '../../db/entities/intake.js';
import type { Db } from '../../db/database.js';
import { foldName } from '@tally/core/rule';
import { nameOfWord, wordsNamed } from '../../people/index.js';

type Said = IntakeCredit['slip'];
type Lines = Pick<CreditChange, 'creditLine' | 'copyrightNotice' | 'termsId' | 'locationId'>;

const pairs = ({ creditLine, copyrightNotice, termsId, locationId }: Lines): unknown[] =>
  [creditLine, copyrightNotice, termsId, locationId].flatMap((value) => [value !== undefined, value ?? null]);

/** What a slip says of credit itself, and which habit said it. */
export async function slipCredit(db: Db, intakeId: number): Promise<(Said & { answeredBy: AnsweredBy }) | null> {
  const rows = await db.query<(Said & { answeredBy: AnsweredBy })[]>(
    `select n.credit_line as "creditLine", n.copyright_notice as "copyrightNotice", n.terms_id as "termsId", n.location_id as "locationId",
       n.answered_by as "answeredBy", coalesce((select json_agg(json_build_object('id', w.word_id, 'text', ${nameOfWord('w.word_id')}) order by w.word_id)
         from intake_word w where w.intake_id = n.id), '[]') as words
     from intake n where n.id = $1`,
    [intakeId],
  );
  return rows[0] ?? null;
}

export async function changeSlipWords(
  db: Db,
  intakeId: number,
  add: readonly number[],
  remove: readonly number[],
): Promise<void> {
  await db.query('delete from intake_word where intake_id = $1 and word_id = any($2::int[])', [intakeId, remove]);
  await db.query('insert into intake_word (intake_id, word_id) select $1, unnest($2::int[]) on conflict do nothing', [
    intakeId,
    add,
  ]);
}

const SAID = (row: string) =>
  `${row}.credit_line as "creditLine", ${row}.copyright_notice as "copyrightNotice", ${row}.terms_id as "termsId"`;

/** Contributors and assignments of an intake, of its slip or of single items, with what they say of credit. */
export async function speakersOf(db: Db, intakeId: number): Promise<Pick<IntakeCredit, 'contributors' | 'assignments'>> {
  const contributors = await db.query<IntakeCredit['contributors']>(
    `select c.id, c.name, c.given, c.family, c.code, ${SAID('c')}, null::int as "locationId", '[]'::json as words from contributor c
     where c.id in (select n.contributor_id from intake n where n.id = $1 union select i.contributor_id from item i where i.intake_id = $1)`,
    [intakeId],
  );
  const assignments = await db.query<IntakeCredit['assignments']>(
    `select a.id, a.title, to_char(a.embargo_until, 'YYYY-MM-DD') as "embargoUntil", null::text as "creditLine", null::text as "copyrightNotice",
       a.terms_id as "termsId", a.location_id as "locationId",
       coalesce((select json_agg(json_build_object('id', w.word_id, 'text', ${nameOfWord('w.word_id')}) order by w.word_id)
         from assignment_word w where w.assignment_id = a.id), '[]') as words from assignment a
     where a.id in (select n.assignment_id from intake n where n.id = $1 union select i.assignment_id from item i where i.intake_id = $1)`,
    [intakeId],
  );
  return { contributors, assignments };
}

export async function houseSays(db: Db): Promise<Omit<Said, 'words' | 'locationId'>> {
  const [row] = await db.query<[Omit<Said, 'words' | 'locationId'>]>(`select ${SAID('h')} from house_credit h where h.id = 1`);
  return row;
}

/** Positions in the files of an intake. */
export async function positionsOf(db: Db, intakeId: number): Promise<{ lat: number; lon: number }[]> {
  return db.query(
    `select (i.embedded->'position'->>'lat')::float8 as lat, (i.embedded->'position'->>'lon')::float8 as lon from item i
     where i.intake_id = $1 and jsonb_typeof(i.embedded->'position') = 'object'
     union all select c.lat, c.lon from item i join item_credit c on c.item_id = i.id where i.intake_id = $1 and c.lat is not null and c.lon is not null`,
    [intakeId],
  );
}

/** The items of a choice with their companions, by intake in the order of intakes. */
export async function withCompanions(db: Db, itemIds: readonly number[]): Promise<{ intakeId: number; ids: number[] }[]> {
  return db.query(
    `with led as (select distinct intake_id, leader from item where id = any($1::int[]))
     select i.intake_id as "intakeId", array_agg(i.id order by i.id) as ids from led join item i on i.intake_id = led.intake_id and i.leader = led.leader
     where i.set_aside is null group by 1 order by 1`,
    [itemIds],
  );
}

/** Is a line of any of these items something else than whoever wants to replace it has seen? */
export async function changedSince(db: Db, ids: readonly number[], was: NonNullable<CreditChange['was']>): Promise<boolean> {
  const lines = (seen: readonly (string | null)[] | undefined) => seen?.map((line) => line ?? '') ?? null;
  const numbers = (seen: readonly (number | null)[] | undefined) => seen?.map((id) => id ?? 0) ?? null;
  const [{ changed }] = await db.query<[{ changed: boolean }]>(
    `select exists (select from unnest($1::int[]) i left join item_credit c on c.item_id = i
       where not coalesce(c.credit_line, '') = any($2::text[]) or not coalesce(c.copyright_notice, '') = any($3::text[])
         or not coalesce(c.terms_id, 0) = any($4::int[]) or not coalesce(c.location_id, 0) = any($5::int[])) as changed`,
    [ids, lines(was.creditLine), lines(was.copyrightNotice), numbers(was.termsId), numbers(was.locationId)],
  );
  return changed;
}

/** Says credit of items; what is not named stays, null leaves it to the slip. */
export async function setItemCredit(
  db: Db,
  ids: readonly number[],
  change: Lines & Pick<CreditChange, 'standing'>,
): Promise<void> {
  await db.query(
    `insert into item_credit as c (item_id, credit_line, copyright_notice, terms_id, location_id, standing)
     select unnest($1::int[]), $3, $5, $7::int, $9::int, jsonb_strip_nulls($10::jsonb)
     on conflict (item_id) do update set
       credit_line = case when $2 then $3 else c.credit_line end, copyright_notice = case when $4 then $5 else c.copyright_notice end,
       terms_id = case when $6 then $7::int else c.terms_id end, location_id = case when $8 then $9::int else c.location_id end,
       standing = jsonb_strip_nulls(c.standing || $10::jsonb)`,
    [ids, ...pairs(change), JSON.stringify(change.standing ?? {})],
  );
}

/** Gives words to items and takes words from them; a word of their slip that is taken is remembered as not theirs. */
export async function changeItemWords(
  db: Db,
  ids: readonly number[],
  add: readonly number[],
  remove: readonly number[],
): Promise<void> {
  await db.query(
    `insert into item_word (item_id, word_id, has) select i, w, true from unnest($1::int[]) i, unnest($2::int[]) w
     on conflict (item_id, word_id) do update set has = true`,
    [ids, add],
  );
  await db.query('delete from item_word where item_id = any($1::int[]) and word_id = any($2::int[])', [ids, remove]);
  await db.query(
    `insert into item_word (item_id, word_id, has)
     select i.id, w.word_id, false from item i join intake n on n.id = i.intake_id
       join lateral (select word_id from intake_word where intake_id = n.id
         union select word_id from assignment_word where assignment_id = coalesce(i.assignment_id, n.assignment_id)) w on w.word_id = any($2::int[])
     where i.id = any($1::int[]) on conflict (item_id, word_id) do update set has = false`,
    [ids, remove],
  );
}

export async function changePictured(
  db: Db,
  ids: readonly number[],
  add: readonly number[],
  remove: readonly number[],
): Promise<void> {
  await db.query('delete from item_pictured where item_id = any($1::int[]) and pictured_id = any($2::int[])', [ids, remove]);
  await db.query(
    'insert into item_pictured (item_id, pictured_id) select i, p from unnest($1::int[]) i, unnest($2::int[]) p on conflict do nothing',
    [ids, add],
  );
}

/** What was said of credit before a change. */
export type CreditBefore = Omit<Said, 'words'>;

/** What items said of credit before a change, for the log: each different state with how many had it. */
export async function creditBefore(db: Db, ids: readonly number[]): Promise<(CreditBefore & { items: number })[]> {
  return db.query(
    `select c.credit_line as "creditLine", c.copyright_notice as "copyrightNotice", c.terms_id as "termsId", c.location_id as "locationId", count(*)::int as items
     from unnest($1::int[]) i left join item_credit c on c.item_id = i group by 1, 2, 3, 4 order by 5 desc limit 20`,
    [ids],
  );
}

/** Positions by a track, kept with the items. */
export async function setPositions(db: Db, positions: readonly { id: number; lat: number; lon: number }[]): Promise<void> {
  await db.query(
    `insert into item_credit (item_id, lat, lon) select p.id, p.lat, p.lon from unnest($1::int[], $2::float8[], $3::float8[]) as p(id, lat, lon)
     on conflict (item_id) do update set lat = excluded.lat, lon = excluded.lon`,
    [positions.map(({ id }) => id), positions.map(({ lat }) => lat), positions.map(({ lon }) => lon)],
  );
}

/** Where somebody is shown, and where the copies stand. */
export async function shownWhere(
  db: Db,
  picturedId: number,
  limit: number,
): Promise<
  {
    itemId: number;
    intakeId: number;
    intakeNumber: string;
    path: string;
    filedAs: string | null;
    places: string[];
  }[]
> {
  return db.query(
    `select i.id as "itemId", i.intake_id as "intakeId", n.number as "intakeNumber", i.path,
       nullif(concat_ws('/', nullif(f.folder, ''), f.name), '') as "filedAs",
       coalesce((select array_agg(p.name order by p.position) from copy c join place p on p.id = c.place_id where c.filed_item_id = f.id and c.state = 'tallied'), '{}') as places
     from item_pictured s join item i on i.id = s.item_id join intake n on n.id = i.intake_id left join filed_item f on f.item_id = i.id
     where s.pictured_id = $1 order by i.id desc limit $2`,
    [picturedId, limit],
  );
}

export const wordsOfIds = (db: Db, ids: readonly number[]): Promise<WordHad[]> =>
  db.query(`select w.id, ${nameOfWord('w.id')} as text from word w where w.id = any($1::int[]) order by w.id`, [ids]);

/** Filed items by where they stand. */
export async function filedItems(db: Db, paths: readonly string[]): Promise<{ id: number; intakeId: number; path: string }[]> {
  return db.query(
    `select f.item_id as id, f.intake_id as "intakeId", p.path from unnest($1::text[], $2::text[]) as p(path, folded) join filed_item f on f.folded_path = p.folded`,
    [paths, paths.map(foldName)],
  );
}

/** Words by any of their names, for taking them out. */
export const wordsNow = async (db: Db, names: readonly string[]): Promise<number[]> => [
  ...(await wordsNamed(db, names)).values(),
];
