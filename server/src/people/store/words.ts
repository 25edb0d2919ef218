import type { CompletionView, WordSaid, WordView } from '@tally/contract';
import { foldText, startsOf } from '@tally/core/words';
import type { Db } from '../../db/database.js';
import { turnReferences } from '../../db/one-of-two.js';

const ISO = (column: string) => `to_char(${column} at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"')`;
/** What a word is called: by its preferred name in the language nobody named, else in any. */
export const nameOfWord = (word: string) =>
  `(select l.text from word_label l where l.word_id = ${word} order by not l.preferred, l.language <> '', l.id limit 1)`;

const VIEW = `
  select w.id, w.iri, w.listed, w.note, ${ISO('w.used_at')} as "usedAt", w.retired_at is not null as retired, w.revision,
    (select json_agg(json_build_object('language', l.language, 'text', l.text, 'preferred', l.preferred) order by not l.preferred, l.language, l.id)
     from word_label l where l.word_id = w.id) as labels,
    coalesce((select json_agg(json_build_object('id', b.broader_id, 'text', ${nameOfWord('b.broader_id')}) order by b.broader_id) from word_broader b where b.word_id = w.id), '[]') as broader,
    coalesce((select json_agg(json_build_object('id', b.word_id, 'text', ${nameOfWord('b.word_id')}) order by b.word_id) from word_broader b where b.broader_id = w.id), '[]') as narrower
  from word w`;

export async function wordById(db: Db, id: number): Promise<WordView | null> {
  const rows = await db.query<WordView[]>(`${VIEW} where w.id = $1`, [id]);
  return rows[0] ?? null;
}

/** A word, kept against others until the transaction ends. */
export async function holdWord(db: Db, id: number): Promise<WordView | null> {
  await db.query('select id from word where id = $1 for update', [id]);
  return wordById(db, id);
}

/** The span of what begins so, in the order of bytes: nothing that begins so comes after its end. */
const BEGINS = (typed: string) => `s.start >= ${typed} collate "C" and s.start < (${typed} || U&'\\+10FFFF') collate "C"`;

/** So many are shown at once. */
export const PAGE = 100;

/** A page of words by name, those after a key. */
export async function wordPage(
  db: Db,
  { after, typed, which }: { after: string; typed: string; which: 'listed' | 'free' | 'all' },
): Promise<{ words: WordView[]; next: string | null }> {
  const begins = foldText(typed);
  const [afterFolded, afterId] = after
    ? [after.slice(0, after.lastIndexOf(' ')), Number(after.slice(after.lastIndexOf(' ') + 1))]
    : ['', 0];
  const keys = await db.query<{ id: number; folded: string }[]>(
    `select w.id, w.folded from word w
     where ($3 = 'all' or w.listed = ($3 = 'listed')) and (w.folded, w.id) > ($1 collate "C", $2::int)
       and ($4 = '' or w.id in (select s.word_id from word_start s where ${BEGINS('$4')}))
     order by w.folded, w.id limit $5`,
    [afterFolded, afterId || 0, which, begins, PAGE],
  );
  const words = await db.query<WordView[]>(`${VIEW} where w.id = any($1::int[])`, [keys.map(({ id }) => id)]);
  const byId = new Map(words.map((word) => [word.id, word]));
  const last = keys.at(-1);
  return {
    words: keys.flatMap(({ id }) => byId.get(id) ?? []),
    next: keys.length === PAGE && last ? `${last.folded} ${last.id}` : null,
  };
}

/** Words any of whose names has a word that begins with what was typed, the best first: as core/words completionsOf. */
export async function completions(db: Db, typed: string, limit: number): Promise<CompletionView[]> {
  const begins = foldText(typed);
  if (begins === '')
    return db.query(
      `select w.id, ${nameOfWord('w.id')} as text, null as by from word w where w.retired_at is null
       order by w.used_at desc nulls last, w.listed desc, w.id limit $1`,
      [limit],
    );
  const rows = await db.query<{ id: number; text: string; labels: string[] }[]>(
    `select w.id, ${nameOfWord('w.id')} as text,
       array(select distinct l.text from word_label l join word_start s on s.label_id = l.id
         where l.word_id = w.id and ${BEGINS('$1')}) as labels
     from (select w.id, w.used_at, w.listed, w.folded from word w
       where w.retired_at is null and w.id in (
         select s.word_id from word_start s where ${BEGINS('$1')})
       order by w.used_at desc nulls last, w.listed desc, w.folded, w.id limit $2) w
     order by w.used_at desc nulls last, w.listed desc, w.folded, w.id`,
    [begins, limit],
  );
  return rows.map(({ id, text, labels }) => {
    const best = labels.includes(text) ? text : [...labels].sort((a, b) => (foldText(a) < foldText(b) ? -1 : 1))[0]!;
    return { id, text, by: best === text ? null : best };
  });
}

/** Words by any of their names, exactly (letter case and accents do not count). The list comes before free words. */
export async function wordsNamed(db: Db, names: readonly string[]): Promise<Map<string, number>> {
  const rows = await db.query<{ id: number; folded: string }[]>(
    `select distinct on (l.folded) l.folded, w.id from word_label l join word w on w.id = l.word_id
     where l.folded = any($1::text[]) and w.retired_at is null order by l.folded, w.listed desc, not l.preferred, w.id`,
    [names.map(foldText)],
  );
  return new Map(rows.map(({ folded, id }) => [folded, id]));
}

export type NewWord = Omit<WordSaid, 'revision'> & { readonly iri?: string | null };

/** So many words in one statement. */
const AT_ONCE = 1000;
function* someOf<T>(all: readonly T[]): Generator<readonly T[]> {
  for (let from = 0; from < all.length; from += AT_ONCE) yield all.slice(from, from + AT_ONCE);
}

/** @returns their ids, in the same order. */
export async function insertWords(db: Db, words: readonly NewWord[]): Promise<number[]> {
  const ids: number[] = [];
  for (const some of someOf(words)) {
    const rows = await db.query<{ id: number }[]>(
      `insert into word (listed, note, iri) select w.listed, w.note, w.iri
       from unnest($1::bool[], $2::text[], $3::text[]) with ordinality as w(listed, note, iri, nth) order by w.nth returning id`,
      [some.map(({ listed }) => listed), some.map(({ note }) => note), some.map(({ iri }) => iri ?? null)],
    );
    // Ids grow in the order in which the rows are made.
    ids.push(...rows.map(({ id }) => id).sort((one, other) => one - other));
  }
  await writeLabels(
    db,
    words.map(({ labels }, at) => ({ wordId: ids[at]!, labels })),
  );
  await writeBroader(
    db,
    words.flatMap(({ broader }, at) => broader.map((broaderId) => ({ wordId: ids[at]!, broaderId }))),
  );
  return ids;
}

export const insertWord = async (db: Db, said: NewWord): Promise<number> => (await insertWords(db, [said]))[0]!;

export async function updateWord(db: Db, id: number, said: Omit<WordSaid, 'revision'>): Promise<void> {
  await db.query('update word set listed = $2, note = $3, revision = revision + 1 where id = $1', [id, said.listed, said.note]);
  await db.query('delete from word_label where word_id = $1', [id]);
  await db.query('delete from word_broader where word_id = $1', [id]);
  await writeLabels(db, [{ wordId: id, labels: said.labels }]);
  await writeBroader(
    db,
    said.broader.map((broaderId) => ({ wordId: id, broaderId })),
  );
}

export async function retireWord(db: Db, id: number, at: Date | null): Promise<void> {
  await db.query('update word set retired_at = $2, revision = revision + 1 where id = $1', [id, at]);
}

/** Names of words, with what each may be found by. */
async function writeLabels(
  db: Db,
  words: readonly { readonly wordId: number; readonly labels: WordSaid['labels'] }[],
): Promise<void> {
  for (const some of someOf(words)) {
    const labels = some.flatMap(({ wordId, labels: all }) => all.map((label) => ({ wordId, ...label })));
    const rows = await db.query<{ id: number; word_id: number; text: string }[]>(
      `insert into word_label (word_id, language, text, folded, preferred)
       select l.* from unnest($1::int[], $2::text[], $3::text[], $4::text[], $5::bool[]) as l on conflict do nothing returning id, word_id, text`,
      [
        labels.map(({ wordId }) => wordId),
        labels.map(({ language }) => language),
        labels.map(({ text }) => text),
        labels.map(({ text }) => foldText(text)),
        labels.map(({ preferred }) => preferred),
      ],
    );
    const starts = rows.flatMap(({ id, word_id, text }) => startsOf(text).map((start) => ({ id, start, word_id })));
    await db.query(
      'insert into word_start (label_id, start, word_id) select s.* from unnest($1::int[], $2::text[], $3::int[]) as s on conflict do nothing',
      [starts.map(({ id }) => id), starts.map(({ start }) => start), starts.map(({ word_id }) => word_id)],
    );
    await db.query(
      `update word set folded = (select l.folded from word_label l where l.word_id = word.id order by not l.preferred, l.language <> '', l.id limit 1)
       where id = any($1::int[])`,
      [some.map(({ wordId }) => wordId)],
    );
  }
}

/** What stands under what; what is no word any more is left out. */
export async function writeBroader(
  db: Db,
  pairs: readonly { readonly wordId: number; readonly broaderId: number }[],
): Promise<void> {
  await db.query(
    `insert into word_broader (word_id, broader_id)
     select p.word_id, w.id from unnest($1::int[], $2::int[]) as p(word_id, broader_id) join word w on w.id = p.broader_id on conflict do nothing`,
    [pairs.map(({ wordId }) => wordId), pairs.map(({ broaderId }) => broaderId)],
  );
}

/** Every word above these, and what each stands under. */
export async function broaderOf(db: Db, ids: readonly number[]): Promise<Map<number, number[]>> {
  const rows = await db.query<{ id: number; broader: number[] }[]>(
    `with recursive up(id, above) as (
       select word_id, broader_id from word_broader where word_id = any($1::int[])
       union select b.word_id, b.broader_id from up join word_broader b on b.word_id = up.above)
     select id, array_agg(above) as broader from up group by 1`,
    [ids],
  );
  return new Map(rows.map(({ id, broader }) => [id, broader]));
}

/** Makes two words one: names become synonyms, and whatever had the one has the other. */
export async function mergeWord(db: Db, id: number, into: number): Promise<void> {
  await db.query('update word_label set preferred = false where word_id = $1', [id]);
  await db.query('delete from word_broader where word_id = $1 and broader_id = $2 or word_id = $2 and broader_id = $1', [
    id,
    into,
  ]);
  await turnReferences(db, 'word', id, into);
  await db.query(
    'update word_start s set word_id = l.word_id from word_label l where l.id = s.label_id and l.word_id = $1 and s.word_id <> $1',
    [into],
  );
  await db.query(
    `update habit set answers = jsonb_set(answers, '{wordIds}', (select coalesce(jsonb_agg(distinct case when v = to_jsonb($1::int) then to_jsonb($2::int) else v end), '[]')
       from jsonb_array_elements(answers->'wordIds') v)) where answers->'wordIds' @> to_jsonb($1::int)`,
    [id, into],
  );
  await db.query(
    'update word w set used_at = greatest(w.used_at, o.used_at), revision = w.revision + 1 from word o where w.id = $2 and o.id = $1',
    [id, into],
  );
  await db.query('delete from word where id = $1', [id]);
}

/** Items that a word is said of, one by one, by their slip or by their assignment. Selects `item_id`. */
export const ITEMS_OF_WORD = `select w.item_id from item_word w where w.word_id = $1
  union select i.id from intake_word w join item i on i.intake_id = w.intake_id where w.word_id = $1
  union select i.id from assignment_word w join intake_part p on p.assignment_id = w.assignment_id join item i on i.intake_id = p.intake_id where w.word_id = $1`;

export async function usedNow(db: Db, ids: readonly number[], at: Date): Promise<void> {
  await db.query('update word set used_at = $2 where id = any($1::int[])', [ids, at]);
}

/** All words of the list, a thousand at a time. */
export async function* everyWord(db: Db): AsyncGenerator<WordView> {
  for (let after = 0; ;) {
    const rows = await db.query<WordView[]>(
      `${VIEW} where w.listed and w.retired_at is null and w.id > $1 order by w.id limit 1000`,
      [after],
    );
    yield* rows;
    if (rows.length < 1000) return;
    after = rows.at(-1)!.id;
  }
}

export async function wordsByIri(db: Db, iris: readonly string[]): Promise<Map<string, number>> {
  const rows = await db.query<{ id: number; iri: string }[]>('select id, iri from word where iri = any($1::text[])', [iris]);
  return new Map(rows.map(({ id, iri }) => [iri, id]));
}
