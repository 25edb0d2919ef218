// Filing 2 to 4 GB to two places with proof, against `cp` twice and the hash tool three times: ordinary, small and large files.
import { randomFillSync } from 'node:crypto';
import { appendFileSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { startCluster } from '../tools/parts/cluster.mjs';
import { drawnOnce } from '../tools/parts/demo-house.mjs';
import { ROOT } from '../tools/parts/ready.mjs';
import { run } from '../tools/parts/run.mjs';
import { COLD, race, sh, SHARE, some } from './measure.mjs';

const SHAPES = [
  { files: 200, bytes: 10_000_000, toP: 0.65, toC: 1.25, product: true },
  { files: 4000, bytes: 500_000, toP: 0.7 },
  { files: 4, bytes: 1_000_000_000, toP: 0.75 },
];

export async function filing(scratch) {
  const rows = [];
  for (const shape of SHAPES) {
    const folder = join(scratch, `filing-${shape.files}`);
    rows.push(...(await filingOf(folder, shape)));
    rmSync(folder, { recursive: true, force: true });
  }
  return rows;
}

async function filingOf(scratch, { files: nominal, bytes: nominalBytes, toP, toC, product: withProduct }) {
  const files = some(nominal, 2);
  // Two files of a gigabyte are not small.
  const bytes = nominalBytes > 100_000_000 ? Math.round(nominalBytes * Math.min(1, SHARE)) : nominalBytes;
  const card = join(scratch, 'card');
  mkdirSync(join(card, 'DCIM/100HALDN'), { recursive: true });
  // Real pictures as large as a camera's: a drawn JPEG with its EXIF, and noise behind it up to the size.
  const box = join(drawnOnce(), 'box/HALDEN_M4/DCIM/100HALDN');
  const picture = readFileSync(join(box, readdirSync(box)[0]));
  const chunk = Buffer.alloc(Math.min(bytes, 10_000_000));
  for (let i = 0; i < files; i++) {
    const path = join(card, `DCIM/100HALDN/HM4_${String(i + 1).padStart(4, '0')}.JPG`);
    for (let written = 0; written < bytes; written += chunk.length) {
      randomFillSync(chunk);
      if (written === 0) picture.copy(chunk);
      appendFileSync(path, chunk);
    }
  }
  const cluster = withProduct ? await startCluster(join(scratch, 'db')) : null;
  const dist = (path) => import(join(ROOT, 'server/dist', path));
  const { fileBatch } = await dist('filing/file-batch.js');
  const { inLanes } = await dist('filing/lanes.js');
  const { systemFiles } = await dist('drive/files.js');
  const { probe } = await dist('drive/place.js');
  let round = 0;
  const at = (name) => join(scratch, `${name}-${round}`);

  /** The engine alone: batches in lanes as filing makes them, no database. */
  async function engine() {
    const places = ['one', 'two'].map((id) => ({ id, name: id, root: at(id) }));
    for (const place of places) mkdirSync(place.root, { recursive: true });
    const able = await Promise.all(places.map(async (place) => ({ ...place, ...(await probe(place)) })));
    const { listCard } = await dist('drive/list-card.js');
    const items = (await listCard(card)).map((entry, index) => ({
      ...entry,
      ...{
        filedItemId: index + 1,
        itemId: index + 1,
        folder: 'f',
        name: `${index}.jpg`,
        hash: null,
        quickHash: null,
        waiting: ['one', 'two'],
        tallied: [],
      },
    }));
    await inLanes(items, async (batch) => {
      const outcome = await fileBatch(batch, {
        ...{
          intakeId: 1,
          from: 'card',
          files: systemFiles,
          sourcePath: card,
          sourceStands: () => Promise.resolve(true),
          places: able,
          signal: new AbortController().signal,
        },
        ...{ now: () => new Date(), rename: () => Promise.resolve(true), onBytes: () => undefined },
      });
      if (outcome.copies.some((copy) => copy.state !== 'tallied')) throw new Error('not every copy tallies');
      return true;
    });
  }

  /** The same through the product: database, jobs of the command line, log. A new database each time, so that nothing is filed already. */
  function product() {
    for (const name of ['one', 'two']) mkdirSync(at(name), { recursive: true });
    const settings = {
      databaseUrl: cluster.adminUrl(`bench${round}`),
      backup: 'by hand',
      dataDir: at('data'),
      zone: 'UTC',
      log: 'error',
      systemDisk: 'knowingly',
      places: [
        { id: 'shared', name: 'Shared drive', kind: 'shared drive', root: at('one') },
        { id: 'second', name: 'Second copy', kind: 'second copy', root: at('two') },
      ],
    };
    const file = at('tally.json');
    writeFileSync(file, JSON.stringify(settings));
    const tally = (...args) => {
      const done = run(process.execPath, [join(ROOT, 'server/bin/tally.mjs'), '--settings', file, ...args], {
        env: {
          UV_THREADPOOL_SIZE: '16',
          NODE_OPTIONS: `--import ${new URL('rss.mjs', import.meta.url).href}`,
          BENCH_RSS: join(scratch, 'rss'),
        },
      });
      if (done.code !== 0) throw new Error(done.out);
    };
    return { tally, file };
  }
  const story = join(scratch, 'story.json');
  writeFileSync(
    story,
    JSON.stringify({
      ...{ people: [], cameras: [], intakes: [] },
      contributors: [{ name: 'Ines Barrow', code: 'IB' }],
      assignments: [{ assignment: { title: 'Bench', slug: 'bench', from: '2026-04-18', to: '2026-04-18' }, expected: [] }],
    }),
  );
  let prepared = null;
  const times = await race(
    {
      ...(withProduct && {
        product: () => prepared.tally('file', card, '--contributor', 'IB', '--assignment', 'bench', '--json'),
      }),
      engine,
      P: () => {
        sh(
          'mkdir -p "$2" "$3"; cp -r "$1/." "$2"; cp -r "$1/." "$3"; sync; ' +
            drop() +
            'find "$1" "$2" "$3" -type f -print0 | xargs -0 xxhsum -q -H2 > /dev/null',
          card,
          at('one'),
          at('two'),
        );
      },
      // Ours is on the disk when it says so: so must cp be.
      C: () => sh('mkdir -p "$2" "$3"; cp -r "$1/." "$2"; cp -r "$1/." "$3"; sync', card, at('one'), at('two')),
    },
    {
      prepare: (name) => {
        for (const old of ['one', 'two', 'data']) rmSync(at(old), { recursive: true, force: true });
        round++;
        if (name !== 'product') return;
        cluster.ensureDatabase(`bench${round}`);
        prepared = product();
        prepared.tally('replay', story);
      },
    },
  );
  cluster?.stop();
  const what = `${nominal} × ${nominalBytes / 1e6} MB to two places, proven`;
  const against = (name, other, words, target) => ({
    what: `${what}: ${words}`,
    ratio: times[name] / times[other],
    target,
    seconds: `${times[name].toFixed(1)} / ${times[other].toFixed(1)} s ${COLD}`,
  });
  const rows = [against('engine', 'P', 'engine ÷ P (cp ×2, sync, xxhsum ×3)', toP)];
  if (toC) rows.push(against('engine', 'C', 'engine ÷ C (cp ×2, sync, no proof)', toC));
  if (!withProduct) return rows;
  const rss = Number(readFileSync(join(scratch, 'rss'), 'utf8'));
  return [
    ...rows,
    against('product', 'P', 'product ÷ P', 0.75),
    against('product', 'engine', 'product (whole command: start, read, plan, file, log) ÷ engine', 1.15),
    { what: `${what}: memory of the product, MB`, ratio: rss / 1e6, target: 300, seconds: 'most at any moment' },
  ];
}

const drop = () => (COLD === 'cold' ? 'echo 3 > /proc/sys/vm/drop_caches; ' : '');
