import type { HouseRecord } from '@tally/contract';
import { foldText } from '@tally/core/words';
import type { Db } from '../../db/database.js';
import { insertWords, type NewWord, wordsNamed } from './words.js';

/* What a house record and the records of intakes tell, put into the lists again. What stands there already stays as it is. */

const TERMS = '(select t.id from terms t where t.name = r.terms)';
const LOCATION = '(select l.id from location l where l.name = r.location)';
const rows = (some: readonly unknown[]) => [JSON.stringify(some)];

/** Terms, locations, keywords, contributors, assignments, cameras. Call it in a transaction. */
export async function rebuildLists(tx: Db, lists: HouseRecord): Promise<void> {
  await tx.query(
    `insert into terms (name, stance, sentence, web, until, retired_at)
     select name, stance, sentence, web, until, "retiredAt" from jsonb_to_recordset($1::jsonb)
       as r(name text, stance text, sentence text, web text, until date, "retiredAt" timestamptz) on conflict do nothing`,
    rows(lists.terms),
  );
  await tx.query(
    `insert into location (name, part, town, region, country, lat, lon, reach_m, retired_at)
     select name, part, town, region, country, lat, lon, "reachM", "retiredAt" from jsonb_to_recordset($1::jsonb)
       as r(name text, part text, town text, region text, country text, lat float8, lon float8, "reachM" int, "retiredAt" timestamptz)
     on conflict do nothing`,
    rows(lists.locations),
  );
  await rebuildKeywords(tx, lists.keywords);
  await tx.query(
    `insert into contributor (code, name, given, family, kind, minor, email, phone, address, web, inside, credit_line, copyright_notice, terms_id, created_at, retired_at)
     select code, name, given, family, kind, minor, email, phone, address, web, inside, "creditLine", "copyrightNotice", ${TERMS}, "createdAt", "retiredAt"
     from jsonb_to_recordset($1::jsonb) as r(code text, name text, given text, family text, kind text, minor boolean, email text, phone text, address text,
       web text, inside text[], "creditLine" text, "copyrightNotice" text, terms text, "createdAt" timestamptz, "retiredAt" timestamptz)
     where not exists (select from former_code f where f.code = r.code) on conflict do nothing`,
    rows(lists.contributors),
  );
  await tx.query(
    `insert into former_code (code, contributor_id) select r.former, c.id from jsonb_to_recordset($1::jsonb) as r(former text, code text)
       join contributor c on c.code = r.code where not exists (select from contributor o where o.code = r.former) on conflict do nothing`,
    rows(lists.contributors.flatMap(({ code, formerCodes }) => formerCodes.map((former) => ({ former, code })))),
  );
  const made = await tx.query<{ slug: string }[]>(
    `insert into assignment (slug, code, title, from_day, to_day, place, expected_cards, description, embargo_until, terms_id, location_id, retired_at)
     select slug, code, title, "from", "to", place, "expectedCards", description, "embargoUntil", ${TERMS}, ${LOCATION}, "retiredAt"
     from jsonb_to_recordset($1::jsonb) as r(slug text, code text, title text, "from" date, "to" date, place text, "expectedCards" int,
       description text, "embargoUntil" date, terms text, location text, "retiredAt" timestamptz) on conflict do nothing returning slug`,
    rows(lists.assignments),
  );
  await rebuildOfAssignments(
    tx,
    lists.assignments.filter(({ slug }) => made.some((one) => one.slug === slug)),
  );
  await tx.query(
    `insert into camera (make, model, serial, contributor_id) select make, model, serial, (select c.id from contributor c where c.code = r.contributor)
     from jsonb_to_recordset($1::jsonb) as r(make text, model text, serial text, contributor text) on conflict do nothing`,
    rows(lists.cameras),
  );
}

async function rebuildKeywords(tx: Db, keywords: HouseRecord['keywords']): Promise<void> {
  const named = await wordsNamed(
    tx,
    keywords.flatMap(({ names }) => names.map(({ text }) => text)),
  );
  const known = (one: HouseRecord['keywords'][number]) =>
    one.names.map(({ text }) => named.get(foldText(text))).find((id) => id !== undefined);
  const fresh = keywords.filter((one) => one.names.length > 0 && known(one) === undefined);
  const ids = await insertWords(
    tx,
    fresh.map(({ listed, note, iri, names }): NewWord => ({ listed, note, iri, labels: names, broader: [] })),
  );
  const byNumber = new Map(keywords.map((one) => [one.n, known(one)]));
  fresh.forEach((one, at) => byNumber.set(one.n, ids[at]));
  const broader = fresh.flatMap(({ n, broader }) =>
    broader.flatMap((other) => {
      const [word, above] = [byNumber.get(n), byNumber.get(other)];
      return word === undefined || above === undefined || word === above ? [] : [{ word, above }];
    }),
  );
  await tx.query(
    `insert into word_broader (word_id, broader_id) select word, above from jsonb_to_recordset($1::jsonb) as r(word int, above int) on conflict do nothing`,
    rows(broader),
  );
  await tx.query(
    `update word set retired_at = r."retiredAt" from jsonb_to_recordset($1::jsonb) as r(id int, "retiredAt" timestamptz) where word.id = r.id`,
    rows(fresh.flatMap(({ retiredAt }, at) => (retiredAt === null ? [] : [{ id: ids[at], retiredAt }]))),
  );
}

async function rebuildOfAssignments(tx: Db, assignments: HouseRecord['assignments']): Promise<void> {
  const texts = assignments.flatMap(({ slug, keywords }) => keywords.map((text) => ({ slug, text })));
  const words = await keywordIds(
    tx,
    texts.map(({ text }) => text),
  );
  await tx.query(
    `insert into assignment_word (assignment_id, word_id) select a.id, r.word from jsonb_to_recordset($1::jsonb) as r(slug text, word int)
       join assignment a on a.slug = r.slug on conflict do nothing`,
    rows(texts.map(({ slug, text }) => ({ slug, word: words.get(text) }))),
  );
  await tx.query(
    `insert into assignment_expected (assignment_id, contributor_id) select a.id, c.id from jsonb_to_recordset($1::jsonb) as r(slug text, code text)
       join assignment a on a.slug = r.slug join contributor c on c.code = r.code on conflict do nothing`,
    rows(assignments.flatMap(({ slug, expected }) => expected.map((code) => ({ slug, code })))),
  );
}

/** What the house says of every item, as its record tells. Only of a house that has said nothing yet. */
export async function rebuildHouseCredit(tx: Db, { credit }: HouseRecord): Promise<void> {
  await tx.query(
    `update house_credit set credit_line = $1, copyright_notice = $2, terms_id = (select t.id from terms t where t.name = $3), kinds = $4, writing = $5 where id = 1`,
    [credit.creditLine, credit.copyrightNotice, credit.terms, credit.kinds, JSON.stringify(credit.writing)],
  );
}

/** Ids of keywords by their text; those that nobody has become free ones. */
export async function keywordIds(tx: Db, texts: readonly string[]): Promise<Map<string, number>> {
  const wanted = [...new Set(texts)];
  const named = await wordsNamed(tx, wanted);
  const missing = wanted.filter((text) => !named.has(foldText(text)));
  const ids = await insertWords(
    tx,
    missing.map((text) => ({ listed: false, note: '', labels: [{ language: '', text, preferred: true }], broader: [] })),
  );
  const made = new Map(missing.map((text, at) => [text, ids[at]!]));
  return new Map(wanted.map((text) => [text, named.get(foldText(text)) ?? made.get(text)!]));
}

/** Whose and what a record says something is, as far as nobody has it yet: a person is never guessed, a code becomes one of that code. */
export async function rebuildNamed(
  tx: Db,
  contributors: readonly { code: string; name: string }[],
  assignments: readonly { slug: string; title: string; day: string }[],
  at: Date,
): Promise<{ contributors: Map<string, number>; assignments: Map<string, number> }> {
  await tx.query(
    `insert into contributor (code, name, created_at) select distinct on (r.code) r.code, r.name, $2::timestamptz
     from jsonb_to_recordset($1::jsonb) as r(code text, name text)
     where not exists (select from former_code f where f.code = r.code) on conflict do nothing`,
    [JSON.stringify(contributors), at],
  );
  await tx.query(
    `insert into assignment (slug, title, from_day, to_day, place, expected_cards)
     select r.slug, min(r.title), min(r.day), max(r.day), '', 0 from jsonb_to_recordset($1::jsonb) as r(slug text, title text, day date)
     group by r.slug on conflict do nothing`,
    rows(assignments),
  );
  const codes = await tx.query<{ code: string; id: number }[]>(
    `select r.code, coalesce(c.id, f.contributor_id) as id from unnest($1::text[]) as r(code)
       left join contributor c on c.code = r.code left join former_code f on f.code = r.code`,
    [[...new Set(contributors.map(({ code }) => code))]],
  );
  const slugs = await tx.query<{ slug: string; id: number }[]>('select slug, id from assignment where slug = any($1::text[])', [
    assignments.map(({ slug }) => slug),
  ]);
  return {
    contributors: new Map(codes.map(({ code, id }) => [code, id])),
    assignments: new Map(slugs.map(({ slug, id }) => [slug, id])),
  };
}

/** Persons who are shown in pictures, by name, with what they said to it; who is known already keeps what was said. */
export async function rebuildPictured(
  tx: Db,
  persons: readonly { name: string; consent: string; until: string | null }[],
): Promise<Map<string, number>> {
  await tx.query(
    `insert into pictured (name, consent, until) select distinct on (r.name) r.name, case when r.consent in ('yes', 'no', 'ask') then r.consent else 'ask' end, r.until
     from jsonb_to_recordset($1::jsonb) as r(name text, consent text, until date) on conflict do nothing`,
    rows(persons),
  );
  const found = await tx.query<{ name: string; id: number }[]>('select name, id from pictured where name = any($1::text[])', [
    persons.map(({ name }) => name),
  ]);
  return new Map(found.map(({ name, id }) => [name, id]));
}

/** Ids of terms and locations by name, those that the lists have; terms that a record spells out are made. */
export async function rebuildSaid(
  tx: Db,
  terms: readonly { name: string; stance: string; sentence: string; web: string | null; until: string | null }[],
  locations: readonly string[],
): Promise<{ terms: Map<string, number>; locations: Map<string, number> }> {
  await tx.query(
    `insert into terms (name, stance, sentence, web, until) select distinct on (r.name) name, stance, sentence, web, until
     from jsonb_to_recordset($1::jsonb) as r(name text, stance text, sentence text, web text, until date) on conflict do nothing`,
    rows(terms),
  );
  await tx.query('insert into location (name) select distinct unnest($1::text[]) on conflict do nothing', [locations]);
  const all = await tx.query<{ name: string; id: number; isTerms: boolean }[]>(
    `select name, id, true as "isTerms" from terms where name = any($1::text[]) union all select name, id, false from location where name = any($2::text[])`,
    [terms.map(({ name }) => name), locations],
  );
  const those = (isTerms: boolean) =>
    new Map(all.flatMap((one) => (one.isTerms === isTerms ? [[one.name, one.id] as const] : [])));
  return { terms: those(true), locations: those(false) };
}
