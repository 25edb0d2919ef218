import type { HouseRecord } from '@tally/contract';
import type { Db } from '../../db/database.js';
import { nameOfWord } from '../../people/index.js';

const instant = (column: string) => `to_char(${column} at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"')`;
const day = (column: string) => `to_char(${column}, 'YYYY-MM-DD')`;
const termsOf = (row: string) => `(select t.name from terms t where t.id = ${row}.terms_id)`;
/** How somebody can be reached, where that may leave the house. */
const open = (part: string) => `case when '${part}' = any(c.inside) then '' else c.${part} end as ${part}`;

type Lists = Omit<HouseRecord, 'format' | 'version' | 'house' | 'houseId' | 'writtenAt'>;

/** What the house knows of people, assignments, words and cards, by names. */
export async function houseKnows(db: Db): Promise<Lists> {
  const terms = await db.query<Lists['terms']>(
    `select name, stance, sentence, web, ${day('until')} as until, ${instant('retired_at')} as "retiredAt" from terms order by id`,
  );
  const locations = await db.query<Lists['locations']>(
    `select name, part, town, region, country, lat, lon, reach_m as "reachM", ${instant('retired_at')} as "retiredAt" from location order by id`,
  );
  const keywords = await db.query<Lists['keywords']>(
    `select w.id as n, w.listed, w.iri, w.note, ${instant('w.retired_at')} as "retiredAt",
      coalesce((select json_agg(json_build_object('language', l.language, 'text', l.text, 'preferred', l.preferred) order by l.id)
        from word_label l where l.word_id = w.id), '[]') as names,
      array(select b.broader_id from word_broader b where b.word_id = w.id order by 1) as broader
    from word w order by w.id`,
  );
  const contributors = await db.query<Lists['contributors']>(
    `select c.code, c.name, c.given, c.family, c.kind, c.minor, ${open('email')}, ${open('phone')}, ${open('address')}, ${open('web')},
      c.inside, c.credit_line as "creditLine", c.copyright_notice as "copyrightNotice", ${termsOf('c')} as terms,
      ${instant('c.created_at')} as "createdAt", ${instant('c.retired_at')} as "retiredAt",
      array(select f.code from former_code f where f.contributor_id = c.id order by 1) as "formerCodes"
    from contributor c order by c.id`,
  );
  const assignments = await db.query<Lists['assignments']>(
    `select a.slug, a.code, a.title, ${day('a.from_day')} as "from", ${day('a.to_day')} as "to", a.place, a.expected_cards as "expectedCards",
      a.description, ${day('a.embargo_until')} as "embargoUntil", ${termsOf('a')} as terms,
      (select l.name from location l where l.id = a.location_id) as location,
      array(select ${nameOfWord('w.word_id')} from assignment_word w where w.assignment_id = a.id order by w.word_id) as keywords,
      array(select c.code from assignment_expected e join contributor c on c.id = e.contributor_id where e.assignment_id = a.id order by c.id) as expected,
      ${instant('a.retired_at')} as "retiredAt"
    from assignment a order by a.id`,
  );
  const rules = await db.query<Lists['rules']>(
    `select revision, note, said_by as "savedBy", ${instant('created_at')} as "createdAt",
      json_build_object('folderLine', folder_line, 'fileLine', file_line, 'kinds', kinds, 'settings', settings) as rule from house_rule order by revision`,
  );
  const cards = await db.query<Lists['cards']>(
    `select label, volume, tray, ${instant('tray_since')} as since, ours from card where label is not null order by id`,
  );
  const cameras = await db.query<Lists['cameras']>(
    `select m.make, m.model, m.serial, c.code as contributor from camera m left join contributor c on c.id = m.contributor_id order by m.id`,
  );
  const clocks = await db.query<Lists['clocks']>(
    `select make, model, serial, shift_s as "shiftSeconds", kind, said_by as by, ${instant('said_at')} as at from clock_correction order by id`,
  );
  const counters = await db.query<Lists['counters']>(`select scope, next from counter order by scope`);
  const [credit] = await db.query<[Lists['credit']]>(
    `select h.credit_line as "creditLine", h.copyright_notice as "copyrightNotice", ${termsOf('h')} as terms, h.kinds, h.writing from house_credit h`,
  );
  return { terms, locations, keywords, contributors, assignments, rules, cards, cameras, clocks, counters, credit };
}
