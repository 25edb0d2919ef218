// Completing a word among 50,000, changing the credit of 10,000 filed items, and what the slip's proposals add to opening an intake.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { startCluster } from '../tools/parts/cluster.mjs';
import { ROOT } from '../tools/parts/ready.mjs';
import { often, some } from './measure.mjs';

const WORDS = 50_000;
const ITEMS = 10_000;
const SYLLABLES = ['ma', 'reed', 'tide', 'sal', 'cor', 'heron', 'mud', 'quay', 'lin', 'to', 'wa', 'fen', 'gul', 'sedge', 'bri'];

/** The n-th made-up word of two or three parts. */
const wordAt = (n) => {
  const part = (at) => SYLLABLES[Math.floor(n / SYLLABLES.length ** at) % SYLLABLES.length];
  return `${part(0)}${part(1)} ${part(2)}${part(3)}${n % 97}`;
};

const percentile = (values, share) => [...values].sort((a, b) => a - b)[Math.floor(values.length * share)];

async function timed(times, run) {
  const all = [];
  for (let i = 0; i < times; i++) {
    const began = performance.now();
    await run(i);
    all.push(performance.now() - began);
  }
  return all;
}

export async function credit(scratch) {
  const [wordCount, itemCount] = [some(WORDS), some(ITEMS)];
  const root = join(scratch, 'credit');
  mkdirSync(join(root, 'shared'), { recursive: true });
  const cluster = await startCluster(join(root, 'db'));
  cluster.ensureDatabase('bench');
  const dist = (path) => import(join(ROOT, 'server/dist', path));
  const [{ compose }, { Settings }, words, { foldText, startsOf, completionsOf }] = await Promise.all([
    dist('composition.js'),
    dist('settings.js'),
    dist('people/store/words.js'),
    import(join(ROOT, 'core/dist/words/index.js')),
  ]);
  const { changeCredit, intakeCredit } = await dist('slip/credit.js');
  const settings = Settings.parse({
    ...{
      databaseUrl: cluster.adminUrl('bench'),
      dataDir: join(root, 'data'),
      zone: 'UTC',
      station: 'bench',
      log: 'error',
      backup: 'by hand',
    },
    systemDisk: 'knowingly',
    places: [{ id: 'shared', name: 'shared', kind: 'shared drive', root: join(root, 'shared'), device: 'one' }],
  });
  const composition = await compose(settings);
  const { house } = composition;
  const { db } = house;

  const texts = Array.from({ length: wordCount }, (_, n) => wordAt(n));
  await db.query('insert into word (listed, folded) select true, f from unnest($1::text[]) f', [texts.map(foldText)]);
  await db.query(
    `insert into word_label (word_id, language, text, folded, preferred) select n, '', t, f, true from unnest($1::text[], $2::text[]) with ordinality as w(t, f, n)`,
    [texts, texts.map(foldText)],
  );
  const starts = texts.flatMap((text, n) => startsOf(text).map((start) => [n + 1, start]));
  await db.query(
    'insert into word_start (label_id, start, word_id) select id, start, id from unnest($1::int[], $2::text[]) as s(id, start)',
    [starts.map(([id]) => id), starts.map(([, start]) => start)],
  );
  await db.query('analyze');
  const typed = [...'mrtschql', ...SYLLABLES, 'reedti', 'tidesal', 'heronmu', 'salma', 'corli', 'xyz'];
  const list = texts.map((text, n) => ({
    id: n + 1,
    labels: [{ language: '', text, preferred: true }],
    broader: [],
    listed: true,
    usedAt: null,
    note: '',
  }));
  const byIndex = await timed(often(300, 30), (i) => words.completions(db, typed[i % typed.length], 12));
  const byScan = await timed(often(20, 5), (i) => completionsOf(list, typed[i % typed.length], 12));

  await db.query(`insert into card (volume, tray, tray_since) values ('BENCH', 'in', now())`);
  await db.query(
    `insert into intake (number, card_id, state, received_at, received_by, station, source_path, present, totals, words)
     values ('2026-0001', 1, 'open', now(), 'bench', 'bench', '/nowhere', false, '{}', '')`,
  );
  await db.query(
    `insert into item (intake_id, path, path_bytes, bytes, modified_at, kind, leader, captured_local, capture_source, capture_original, read, taken, already_confirmed)
     select 1, 'A/' || n, convert_to('A/' || n, 'UTF8'), 10, now(), 'photo', 'A/' || n, '2026-04-18T09:00:00', 'metadata', '', true, true, false from generate_series(1, $1) n`,
    [itemCount],
  );
  await db.query(
    `insert into filed_item (intake_id, item_id, folder, folded_folder, name, list_folder, folded_list_folder, folded_path, bytes, hash, filed_at)
     select 1, id, 'F', 'f', id || '.jpg', 'F', 'f', 'f/' || id || '.jpg', 10, decode(lpad(to_hex(id), 32, '0'), 'hex'), now() from item`,
  );
  await db.query(
    `insert into copy (filed_item_id, place_id, state, tallied_at) select id, 'shared', 'tallied', now() from filed_item`,
  );
  await db.query('analyze');
  const itemIds = (await db.query('select id from item')).map(({ id }) => id);
  const changes = await timed(often(5, 2), (i) =>
    changeCredit(house, { itemIds, creditLine: `Line ${i}`, addWords: [`bench word ${i}`] }, 'bench'),
  );
  const opened = await timed(often(30, 5), () => intakeCredit(house, 1));
  await composition.close();
  cluster.stop();
  const p95 = percentile(byIndex, 0.95);
  return [
    {
      what: `completing a word among ${WORDS}, p95 ÷ 30 ms`,
      ...{ ratio: p95 / 30, target: 1, seconds: `${percentile(byIndex, 0.5).toFixed(1)} / ${p95.toFixed(1)} ms` },
    },
    {
      what: 'the same ÷ a plain scan of the list, medians',
      ...{
        ratio: percentile(byIndex, 0.5) / percentile(byScan, 0.5),
        target: 1,
        seconds: `${percentile(byIndex, 0.5).toFixed(1)} / ${percentile(byScan, 0.5).toFixed(1)} ms`,
      },
    },
    {
      what: `credit and a word of ${ITEMS} filed items, answered: seconds`,
      ...{ ratio: percentile(changes, 0.5) / 1000, target: 1, seconds: changes.map((ms) => `${ms.toFixed(0)} ms`).join(', ') },
    },
    {
      what: `what a slip is filled from, with ${ITEMS} items: p95 ÷ 50 ms`,
      ...{
        ratio: percentile(opened, 0.95) / 50,
        target: 1,
        seconds: `${percentile(opened, 0.5).toFixed(1)} / ${percentile(opened, 0.95).toFixed(1)} ms`,
      },
    },
  ];
}
