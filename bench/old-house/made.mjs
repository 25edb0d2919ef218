// The old house: a database as it is after two decades of a busy desk. Made by SQL, so that it takes minutes; that it is what
// the product itself would have made of such cards is tested (tests/reference/old-house). The files themselves are not there.

/** What a desk of 22 years has. */
export const OLD_HOUSE = { items: 530_000, intakes: 3_900, contributors: 200, assignments: 2_000, years: 22 };

const GIVEN = ['Ada', 'Bram', 'Cleo', 'Dov', 'Esme', 'Finn', 'Greta', 'Hal', 'Ines', 'Jory', 'Kaia', 'Lorne', 'Mina', 'Nils'];
const FAMILY = ['Reed', 'Marsh', 'Vale', 'Oka', 'Sandpiper', 'Holm', 'Brook', 'Fenn', 'Tarn', 'Wick', 'Saltash', 'Dune', 'Eyre'];
const THINGS = [
  'Reed planting',
  'Tide survey',
  'Heron count',
  'Open day',
  'Bird count',
  'Creek walk',
  'Sluice repair',
  'Spring clean',
];
const WORDS = ['reed', 'tide', 'heron', 'mud', 'boots', 'planting', 'children', 'dawn', 'sluice', 'storm', 'nest', 'bridge'];
const texts = (list) => `(array[${list.map((one) => `'${one}'`).join(', ')}])`;
const pick = (list, by) => `${texts(list)}[1 + (${by}) % ${list.length}]`;

/** The day on which the house stands still: the demo's. */
export const OLD_HOUSE_NOW = '2026-04-21T16:40:00Z';

/** A number from 0 to `below` - 1 that is always the same for the same thing. */
const chance = (of, below) => `(hashint4extended((${of})::int, 16) & 2147483647)::int % ${below}`;

/**
 * Fills an empty, migrated database. The connection must be a superuser's: triggers rest meanwhile, and what they keep is
 * counted at the end.
 * @param places ids of the places that hold a copy each, in the order of the stick
 */
export async function makeOldHouse(client, places, { items, intakes, contributors, assignments, years } = OLD_HOUSE) {
  const bare = `{${places.map((id) => `"${id}"`).join(',')}}`;
  const statements = [
    `set session_replication_role = replica`,
    `set synchronous_commit = off`,
    `set jit = off`,
    `set work_mem = '128MB'`,
    `insert into contributor (id, code, name, created_at, given, family, kind) overriding system value
     select n, 'A' || upper(lpad(to_hex(n), 3, '0')), g || ' ' || f || ' ' || n, '2004-04-01'::timestamptz, g, f, 'volunteer'
     from (select n, ${pick(GIVEN, 'n')} as g, ${pick(FAMILY, 'n / 3')} as f from generate_series(1, ${contributors}) n) c`,
    `insert into assignment (id, slug, code, title, from_day, to_day, place, expected_cards) overriding system value
     select n, lower(replace(t, ' ', '-')) || '-' || n, 'A' || n, t || ' ' || n, day, day + 2, 'North Flats', 1 + n % 3
     from (select n, ${pick(THINGS, 'n')} as t, ('2004-04-21'::date + (n::bigint * ${years} * 365 / ${assignments})::int) as day
       from generate_series(1, ${assignments}) n) a`,
    `insert into assignment_expected (assignment_id, contributor_id)
     select n, 1 + (${chance('n * 3 + k', contributors)}) from generate_series(1, ${assignments}) n, generate_series(0, 1) k on conflict do nothing`,
    `insert into word (id, listed, folded) overriding system value
     select n, n <= 300, ${pick(WORDS, 'n')} || ' ' || n from generate_series(1, 600) n`,
    `insert into word_label (word_id, language, text, folded, preferred) select id, '', folded, folded, true from word`,
    `insert into word_start (label_id, start, word_id) select id, folded, word_id from word_label`,
    `insert into assignment_word (assignment_id, word_id) select n, 1 + n % 600 from generate_series(1, ${assignments}) n`,
    `insert into terms (id, name, stance) overriding system value values (1, 'Free for the Trust', 'free for the house'), (2, 'Ask first', 'ask first')`,
    `insert into pictured (id, name, consent) overriding system value
     select n, 'Visitor ' || n, (array['yes', 'no', 'ask'])[1 + n % 3] from generate_series(1, 300) n`,
    `insert into camera (make, model, serial, contributor_id) select 'Halden', 'M' || n % 5, 'HM' || n, n from generate_series(1, ${contributors}) n`,
    // Cards go round: each is handed in about ten times. The last dozen lie at the desk.
    `insert into card (id, label, volume, tray, tray_since, ours) overriding system value
     select n, 'C-' || lpad(n::text, 4, '0'), 'HALDEN', case when n <= 12 then 'to give back' else 'out' end, '${OLD_HOUSE_NOW}', n % 4 = 0
     from generate_series(1, greatest(12, ${intakes} / 10)) n`,
    // A few large cards, many small ones: weights, made into sizes that come to the whole.
    `create temp table hand_in_of as
     with weighed as (select n, 20 + power(${chance('n', '1000')}, 2) / 5000 as weight from generate_series(1, ${intakes}) n),
       ends as (select n, round(sum(weight) over (order by n) / sum(weight) over () * ${items})::int as till from weighed)
     select n as id, coalesce(lag(till) over (order by n), 0) + 1 as first, till as last,
       '2004-04-22T09:00:00Z'::timestamptz + (n::bigint * ${years} * 365 * 86400 / ${intakes}) * interval '1 s' as at,
       1 + ${chance('n * 7', contributors)} as contributor_id, least(1 + n * ${assignments} / ${intakes}, ${assignments}) as assignment_id,
       1 + (n - 1) % greatest(12, ${intakes} / 10) as card_id
     from ends`,
    `insert into house_rule (folder_line, file_line, note, created_at)
     select folder_line, file_line, 'As it was', '2004-04-21' from house_rule where revision = 1`,
    `create temp table row_of as
     select i as id, h.id as intake_id, h.contributor_id, h.assignment_id, i - h.first as nth, h.at,
       -- One in eight is a raw beside the picture before it, in its object.
       case when (i - h.first) % 8 = 1 then 'raw' when i % 29 = 0 then 'video' when i % 97 = 0 then 'sound' else 'photo' end as kind,
       (i - h.first) % 8 = 1 as follows, ${chance('i', '1000')} >= 57 as filed,
       to_char(h.at - interval '30 h' + (i - h.first) * interval '7 s', 'YYYY-MM-DD"T"HH24:MI:SS') as local
     from hand_in_of h, generate_series(h.first, h.last) i`,
    `insert into intake (id, number, card_id, contributor_id, assignment_id, rule_revision, state, received_at, received_by, station, source_path,
       present, read_through, totals, words, cleared_at)
     overriding system value
     select id, to_char(at, 'YYYY') || '-' || lpad((row_number() over (partition by to_char(at, 'YYYY') order by id))::text, 4, '0'),
       card_id, contributor_id, assignment_id, 1 + (id > ${intakes} / 2)::int, case when id > ${intakes} - 12 then 'tallied' else 'closed' end, at, 'wren',
       'Station 2, Boathouse', '/readers/' || card_id, false, true, '{}', '', at from hand_in_of`,
    `insert into item (id, intake_id, path, path_bytes, bytes, modified_at, kind, leader, object_role, structure, captured_local, captured_offset,
       capture_source, capture_original, make, model, serial, width, height, duration_ms, orientation, read, taken, quick_hash, already_confirmed,
       camera_local, camera_offset, verdict, description, sharpness, look, pictured, version)
     overriding system value
     select id, intake_id, path, convert_to(path, 'UTF8'), bytes, local::timestamp at time zone 'UTC', kind, leader, case when follows then 'raw' else 'leader' end,
       'dcf', local, 0, 'EXIF', translate(local, '-T', ': '), 'Halden', 'M' || contributor_id % 5, 'HM' || contributor_id,
       case when kind <> 'sound' then 6000 end, case when kind <> 'sound' then 4000 end, case when kind in ('video', 'sound') then 8000 end, 1, true, filed,
       decode(md5(id::text), 'hex'), false, local, 0, (array['select', null, null, null, 'hold'])[1 + id % 5],
       case when id % 20 = 0 then 'Reeds at the north flats, number ' || id else '' end, 40 + id % 50, decode(substr(md5((id / 3)::text), 1, 16), 'hex'),
       not follows, id
     from (select *, folder || stem || ext as path, folder || stem || '.JPG' as leader_path,
         case when follows then folder || 'HM_' || lpad((1 + (nth - 1) % 9999)::text, 4, '0') || '.JPG' else folder || stem || ext end as leader,
         case kind when 'raw' then 24000000 when 'video' then 180000000 when 'sound' then 3000000 else 8000000 end + id % 500000 as bytes
       from (select *, 'DCIM/' || 100 + nth / 999 || 'HALDN/' as folder,
           'HM_' || lpad((1 + (nth - follows::int) % 9999)::text, 4, '0') as stem,
           case kind when 'raw' then '.DNG' when 'video' then '.MP4' when 'sound' then '.WAV' else '.JPG' end as ext from row_of) r) r`,
    `insert into filed_item (id, intake_id, item_id, folder, folded_folder, name, folded_path, n, bytes, hash, quick_hash, filed_at, list_folder, folded_list_folder)
     overriding system value
     select id, intake_id, id, folder, folder, name, lower(folder || '/' || name), n, bytes, hash, quick_hash, at, folder, folder
     from (select r.id, r.intake_id, r.at, i.bytes, i.quick_hash, decode(md5('whole' || r.id), 'hex') as hash, r.n,
         left(r.local, 4) || '/' || left(r.local, 7) || '/' || left(r.local, 10) || '_' || a.slug as folder,
         replace(left(r.local, 10), '-', '') || '_' || c.code || '_' || lpad(r.n::text, 4, '0') || lower(substring(i.path from '\\.[A-Z0-9]+$')) as name
       from (select row_of.*, (row_number() over (partition by assignment_id, left(local, 10) order by id))::int as n from row_of where filed) r
         join item i on i.id = r.id join assignment a on a.id = r.assignment_id join contributor c on c.id = r.contributor_id) f`,
    `insert into copy (filed_item_id, place_id, state, tallied_at, proof)
     select f.id, p, 'tallied', f.filed_at, 'read back past the page cache' from filed_item f, unnest('${bare}'::text[]) p`,
    `insert into credit_written (filed_item_id, version, how, fingerprint, bytes, hash, quick_hash, undo)
     select f.id, 1, 'inside', md5(i.intake_id::text), f.bytes + 8192, decode(md5('with' || f.id), 'hex'), decode(md5('ends' || f.id), 'hex'),
       '[{"at": 4, "cut": 2, "put": "F/o="}, {"at": 6142, "cut": 8192, "put": ""}]'
     from filed_item f join item i on i.id = f.item_id where i.kind = 'photo'`,
    `insert into credit_stands (filed_item_id, place_id, version) select w.filed_item_id, p, 1 from credit_written w, unnest('${bare}'::text[]) p`,
    `insert into item_word (item_id, word_id) select id, 1 + ${chance('id', '600')} from item where id % 5 = 0`,
    `insert into intake_word (intake_id, word_id) select id, 1 + id % 600 from intake`,
    `insert into item_pictured (item_id, pictured_id) select id, 1 + ${chance('id', '300')} from item where id % 50 = 0`,
    `insert into item_credit (item_id, credit_line, terms_id) select id, 'Ostrel Bay Tidelands Trust', 2 from item where id % 40 = 0`,
    ...[
      ['received', 'HALDEN: items received.', 0],
      ['slip', 'Slip filled.', 1],
      ['filing', 'Filing items.', 2],
      ['tallied', 'Every copy tallies.', 3],
      ['given back', 'Card given back.', 4],
    ].map(
      ([kind, text, after]) =>
        `insert into event (at, kind, intake_id, who, text, data, epoch, xact)
         select at + ${after} * interval '1 min', '${kind}', id, ${kind === 'tallied' ? 'null' : `'wren'`}, '${text}', null, 1, 0 from hand_in_of`,
    ),
    `update intake n set unshown = c.unshown from (select i.intake_id, count(distinct i.id)::int as unshown
       from item i join item_pictured p on p.item_id = i.id join pictured q on q.id = p.pictured_id where q.consent = 'no' group by 1) c
     where c.intake_id = n.id`,
    ...TOTALS(places),
    ...['contributor', 'assignment', 'word', 'terms', 'pictured', 'card', 'intake', 'item', 'filed_item'].map(
      (table) => `select setval(pg_get_serial_sequence('${table}', 'id'), (select max(id) from ${table}))`,
    ),
    'select recount_places(), recount_folders()',
    // What triggers keep of an intake: of its totals, and what it is called after.
    `update intake i set items = (i.totals->>'items')::int, filed = (i.totals->>'filed')::int, bytes = (i.totals->>'bytes')::bigint,
       by_contributor = c.name, by_assignment = a.title, by_card = k.label
     from contributor c, assignment a, card k where c.id = i.contributor_id and a.id = i.assignment_id and k.id = i.card_id`,
    `select setval('item_version', ${items})`,
    `insert into counter (scope, next) select 'intake:' || left(number, 4), count(*) + 1 from intake group by left(number, 4)
     on conflict (scope) do update set next = excluded.next`,
    `set session_replication_role = origin`,
    `drop table row_of, hand_in_of`,
    `vacuum analyze`,
  ];
  for (const statement of statements) await client.query(statement);
}

/** What the product keeps of an intake beside its items; see seeing/totals. */
const TOTALS = (places) => [
  `insert into intake_part (intake_id, contributor_id, assignment_id, items, given, filed, bytes)
   select n.id, n.contributor_id, n.assignment_id, count(*), count(*) filter (where i.taken), count(*) filter (where i.taken), sum(i.bytes)
   from intake n join item i on i.intake_id = n.id group by n.id`,
  `create temp table stick_of as
   select intake_id, jsonb_agg(jsonb_build_object('count', count, 'card', case when taken then 'cut' else 'ring' end,
       'copies', to_jsonb(array_fill(case when taken then 'cut' else 'ring' end, array[${places.length}]))) order by first) as stick
   from (select intake_id, taken, count(*), min(id) as first from (
       select *, row_number() over (partition by intake_id order by captured_local, path)
         - row_number() over (partition by intake_id, taken order by captured_local, path) as run from item) i
     group by intake_id, taken, run) r group by 1`,
  `update intake n set totals = jsonb_build_object('items', c.items, 'bytes', c.bytes, 'byKind', k.by_kind, 'camera', c.camera,
     'taken', c.taken, 'filed', c.taken, 'alreadyFiled', 0, 'comparing', 0, 'read', c.items, 'first', c.first, 'last', c.last, 'stick', s.stick),
     words = lower(concat_ws(' ', n.number, d.label, d.volume, w.code, w.name, a.title, a.slug, a.place, c.camera, c.first, c.last))
   from (select intake_id, count(*) as items, sum(bytes) as bytes, 'Halden ' || min(model) as camera, count(*) filter (where taken) as taken,
       (array_agg(regexp_replace(path, '.*/', '') order by captured_local, path))[1] as first,
       (array_agg(regexp_replace(path, '.*/', '') order by captured_local desc, path desc))[1] as last from item group by 1) c,
     (select intake_id, jsonb_object_agg(kind, sums) as by_kind from (select intake_id, kind, jsonb_build_object('items', count(*), 'bytes', sum(bytes)) as sums
       from item group by 1, 2) k group by 1) k, stick_of s, card d, contributor w, assignment a
   where c.intake_id = n.id and k.intake_id = n.id and s.intake_id = n.id and d.id = n.card_id and w.id = n.contributor_id and a.id = n.assignment_id`,
  `drop table stick_of`,
];
