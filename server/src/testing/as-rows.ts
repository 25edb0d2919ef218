import type { Db } from '../db/database.js';

const INSTANT = (column: string) => `to_char(${column} at time zone 'UTC', 'YYYY-MM-DD HH24:MI:SS.MS')`;
const OF = `n.number, i.path`;
const ITEMS = `from item i join intake n on n.id = i.intake_id`;
const FILED = `from filed_item f join item i on i.id = f.item_id join intake n on n.id = i.intake_id`;
const word = `(select l.text from word_label l where l.word_id = w.word_id order by not l.preferred, l.id limit 1)`;

/** What a logbook says, by names instead of ids: the same of two databases that say the same. A query for each table. */
const QUERIES: Readonly<Record<string, string>> = {
  house: `select h.id, c.credit_line, c.copyright_notice, c.kinds, c.writing from house_life h cross join house_credit c`,
  intake: `select n.uid, n.number, n.state, ${INSTANT('n.received_at')} as received, n.received_by, n.station, n.source_path, k.label, k.volume,
      c.code, a.slug, r.folder_line, r.settings, ${INSTANT('n.cleared_at')} as cleared, n.credit_line, n.copyright_notice, t.name as terms, l.name as location,
      n.drawn, n.adopted_at, n.adopted_folder, n.totals, n.items, n.filed, n.bytes,
      array(select distinct w from unnest(string_to_array(n.words, ' ')) w order by 1) as words
    from intake n join card k on k.id = n.card_id left join contributor c on c.id = n.contributor_id left join assignment a on a.id = n.assignment_id
      left join house_rule r on r.revision = n.rule_revision left join terms t on t.id = n.terms_id left join location l on l.id = n.location_id order by 2`,
  item: `select ${OF}, i.path_bytes, i.bytes, ${INSTANT('i.modified_at')} as modified, i.kind, i.leader, i.object_role, i.part, i.parts, i.structure, i.structure_root,
      i.series, i.clip, i.remark, i.captured_local, i.captured_offset, i.capture_source, i.capture_original, i.camera_local, i.camera_offset, i.clock_shift_s,
      i.make, i.model, i.serial, i.width, i.height, i.duration_ms, i.orientation, i.turned, i.use_from_ms, i.use_to_ms, i.read, i.taken, i.aside, i.aside_by,
      i.verdict, i.description, i.role, i.profile, i.embedded, i.quick_hash, c.code, a.slug
    ${ITEMS} left join contributor c on c.id = i.contributor_id left join assignment a on a.id = i.assignment_id
    where exists (select from filed_item f where f.item_id = i.id) order by 1, 2`,
  left: `select ${OF}, i.bytes, i.kind, i.set_aside, i.problem, i.taken, i.aside, i.aside_by, i.already_confirmed, (select f.folded_path from filed_item f where f.id = i.already_filed_id) as as
    ${ITEMS} where not exists (select from filed_item f where f.item_id = i.id) order by 1, 2`,
  filed: `select ${OF}, f.folder, f.name, f.list_folder, f.folded_path, f.n, f.bytes, f.hash, f.quick_hash, ${INSTANT('f.filed_at')} as filed ${FILED} order by 1, 2`,
  copy: `select ${OF}, c.place_id, c.state, ${INSTANT('c.tallied_at')} as tallied, c.proof, c.problem ${FILED} join copy c on c.filed_item_id = f.id order by 1, 2, 3`,
  credit: `select ${OF}, s.place_id, w.how, w.fingerprint, w.bytes, w.hash, w.quick_hash, w.undo, w.reason
    ${FILED} join credit_stands s on s.filed_item_id = f.id join credit_written w on w.filed_item_id = s.filed_item_id and w.version = s.version order by 1, 2, 3`,
  said: `select ${OF}, o.credit_line, o.copyright_notice, t.name as terms, l.name as location, o.lat, o.lon, o.standing
    ${ITEMS} join item_credit o on o.item_id = i.id left join terms t on t.id = o.terms_id left join location l on l.id = o.location_id order by 1, 2`,
  words: `select ${OF}, ${word} as word, w.has ${ITEMS} join item_word w on w.item_id = i.id order by 1, 2, 3`,
  slipWords: `select n.number, ${word} as word from intake n join intake_word w on w.intake_id = n.id order by 1, 2`,
  persons: `select ${OF}, p.name, p.consent, p.until ${ITEMS} join item_pictured w on w.item_id = i.id join pictured p on p.id = w.pictured_id order by 1, 2, 3`,
  former: `select ${OF}, p.path, ${INSTANT('p.until')} as until ${FILED} join former_path p on p.filed_item_id = f.id order by 1, 2, 3`,
  bin: `select ${OF}, m.words, m.who, m.kept_until, v.place_id, v.from_path, v.to_path ${FILED} join mend_move v on v.filed_item_id = f.id
      join mend m on m.id = v.mend_id where m.kept_until is not null order by 1, 2, 6`,
  events: `select n.number, ${INSTANT('e.at')} as at, e.kind, e.who, e.text from event e join intake n on n.id = e.intake_id
    where e.kind not in ('manifest', 'rebuilt') order by e.id`,
  contributor: `select c.code, c.name, c.given, c.family, c.kind, c.minor, c.email, c.inside, c.credit_line, c.copyright_notice, t.name as terms,
      ${INSTANT('c.created_at')} as created, ${INSTANT('c.retired_at')} as retired from contributor c left join terms t on t.id = c.terms_id order by 1`,
  former_code: `select f.code, c.code as now from former_code f join contributor c on c.id = f.contributor_id order by 1`,
  assignment: `select a.slug, a.code, a.title, a.from_day, a.to_day, a.place, a.expected_cards, a.description, a.embargo_until, t.name as terms, l.name as location,
      array(select c.code from assignment_expected e join contributor c on c.id = e.contributor_id where e.assignment_id = a.id order by 1) as expected,
      array(select ${word} from assignment_word w where w.assignment_id = a.id order by 1) as words
    from assignment a left join terms t on t.id = a.terms_id left join location l on l.id = a.location_id order by 1`,
  terms: `select name, stance, sentence, web, until, ${INSTANT('retired_at')} as retired from terms order by 1`,
  location: `select name, part, town, region, country, lat, lon, reach_m from location order by 1`,
  keywords: `select w.folded, w.listed, w.iri, w.note, array(select l.language || ' ' || l.text from word_label l where l.word_id = w.id order by 1) as names,
      array(select o.folded from word_broader b join word o on o.id = b.broader_id where b.word_id = w.id order by 1) as broader from word w order by 1`,
  rules: `select revision, folder_line, file_line, kinds, settings, note, said_by from house_rule order by 1`,
  cards: `select label, volume, tray, ${INSTANT('tray_since')} as since, ours from card where label is not null order by 1`,
  cameras: `select m.make, m.model, m.serial, c.code from camera m left join contributor c on c.id = m.contributor_id order by 1, 2, 3`,
  counters: `select scope, next from counter order by 1`,
};

/** Everything that a logbook says of what is filed, table by table. */
export async function asRows(db: Db): Promise<Record<string, unknown[]>> {
  const said: Record<string, unknown[]> = {};
  for (const [table, sql] of Object.entries(QUERIES)) said[table] = await db.query(sql);
  return said;
}
