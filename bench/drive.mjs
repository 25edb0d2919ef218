// The drive as it is: adopting, checking, a level of the tree and renaming, each against plain tools over the same files.
import { randomBytes } from 'node:crypto';
import { mkdirSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { removeCluster, startCluster } from '../tools/parts/cluster.mjs';
import { ROOT } from '../tools/parts/ready.mjs';
import { say } from '../tools/parts/say.mjs';
import { COLD, dropCaches, often, race, sh, some } from './measure.mjs';

const never = new AbortController().signal;
const dist = (path) => import(join(ROOT, 'server/dist', path));
const seconds = (began) => (Date.now() - began) / 1000;

/** Reads the first and the last 64 KiB of each file. */
const ENDS = `find "$1" -type f -name "*.jpg" -print0 > "$1.list"
  xargs -0 -n 500 head -q -c 65536 < "$1.list" > /dev/null; xargs -0 -n 500 tail -q -c 65536 < "$1.list" > /dev/null; rm "$1.list"`;

/** As many pictures of an ordinary size, and how large they are. */
const PICTURES = 300;
const PICTURE_BYTES = 6_000_000;

/** As many small ones, folders in one level of the tree, and files that are renamed. */
const FILES = 200_000;
const FOLDERS = 10_000;
const RENAMED = 10_000;

export async function drive(scratch) {
  const files = some(FILES);
  const folder = join(scratch, 'drive');
  const cluster = await startCluster(join(folder, 'db'));
  cluster.ensureDatabase('tally');
  const [{ compose }, { Settings }] = await Promise.all([dist('composition.js'), dist('settings.js')]);
  for (const id of ['shared', 'second']) mkdirSync(join(folder, id), { recursive: true });
  const places = ['shared', 'second'].map((id, i) => ({
    ...{ id, name: id, kind: i ? 'second copy' : 'shared drive', root: join(folder, id), device: id },
    // What is measured is the first place; the second has nothing of it.
    holds: i ? { assignments: ['nothing'] } : {},
  }));
  const settings = Settings.parse({
    ...{
      databaseUrl: cluster.adminUrl('tally'),
      dataDir: join(folder, 'data'),
      zone: 'UTC',
      station: 'bench',
      log: 'error',
      backup: 'by hand',
    },
    ...{ systemDisk: 'knowingly', places, previews: { build: 'when looked at' }, besideAdopted: 'nothing' },
  });
  const composition = await compose(settings);
  const rows = [];
  try {
    const { house } = composition;
    const root = join(folder, 'shared');
    say(`making ${files} files`);
    await make(root, files);
    await makePictures(join(root, 'pictures'));
    const tending = await dist('tending/index.js');
    const { askCheck, runCheck, askAdopt, runAdoption, planMend, beginMend, carryOutAll, treeOf } = tending;
    const check = async (how) =>
      runCheck(house, await askCheck(house, 'shared', { how, names: false, strict: false }, 'bench'), never);
    await check('size and time');
    const { foldersSay } = await dist('tending/reading.js');
    const hash = 'find "$1" -type f -name "*.jpg" -print0 | xargs -0 -n 500 xxhsum -H2 -q > /dev/null';
    const adopt = async (what, below) => {
      const { folders } = await foldersSay(house, 'shared', below);
      const ask = folders.map((one) => ({ folder: one.folder, contributorId: null, assignmentId: null, title: null, day: null }));
      dropCaches();
      let began = Date.now();
      await runAdoption(house, await askAdopt(house, 'shared', { folders: ask }, 'bench'), never);
      const adopting = seconds(began);
      dropCaches();
      began = Date.now();
      sh(hash, join(root, below));
      const hashing = seconds(began);
      rows.push({
        what: `adopting ${what} ÷ xxh128sum of the same, ${COLD}`,
        ratio: adopting / hashing,
        target: 1.15,
        seconds: `${adopting.toFixed(1)} s, ${hashing.toFixed(1)} s`,
      });
    };
    await adopt(`${PICTURES} pictures of ${PICTURE_BYTES / 1e6} MB`, 'pictures');
    await adopt(`${FILES} files of 2 kB`, 'small');
    const looked = await race({
      find: () => sh('find "$1" -printf "%p %s %T@\\n" > /dev/null', root),
      ours: () => check('size and time'),
    });
    rows.push({
      what: `check of ${FILES} known files by size and time ÷ find -printf, ${COLD}`,
      ratio: looked.ours / looked.find,
      target: 2,
      seconds: `${looked.ours.toFixed(1)} s, ${looked.find.toFixed(1)} s`,
    });
    const ends = await race(
      {
        // Both ends of the pictures, and all of the small ones.
        tools: () => sh(ENDS, root),
        ours: () => check('fast identity'),
      },
      { rounds: 1 },
    );
    rows.push({
      what: `check by fast identity ÷ reading the same with plain tools, ${COLD}`,
      ratio: ends.ours / ends.tools,
      target: 1.3,
      seconds: `${ends.ours.toFixed(1)} s, ${ends.tools.toFixed(1)} s`,
    });
    const times = [];
    for (let n = 0; n < often(40, 5); n++) {
      const at = process.hrtime.bigint();
      await treeOf(house, 'shared', { folder: 'many', after: '', limit: 500 });
      times.push(Number(process.hrtime.bigint() - at) / 1e6);
    }
    times.sort((a, b) => a - b);
    rows.push({
      what: `a level of the tree with ${FOLDERS} folders, p95 ms`,
      ratio: times[Math.floor(times.length * 0.95)],
      target: 100,
      seconds: `p50 ${times[times.length >> 1].toFixed(0)} ms`,
    });
    const began = Date.now();
    const items = await house.db.query(`select item_id as id from filed_item order by id desc limit $1`, [some(RENAMED)]);
    const mend = { kind: 'put aside', itemIds: items.map(({ id }) => id), why: 'measured' };
    const plan = await planMend(house, mend);
    await beginMend(house, mend, plan.seal, 'bench');
    await carryOutAll(house, never);
    rows.push({
      what: `renaming ${RENAMED} files one by one, with the log, seconds`,
      ratio: seconds(began),
      target: 30,
      seconds: '',
    });
  } finally {
    await composition.close();
    cluster.stop();
    removeCluster(join(folder, 'db'));
  }
  return rows;
}

/** A small picture with what a camera writes of it. */
const drawnPicture = () =>
  sharp({ create: { width: 48, height: 32, channels: 3, background: '#486' } })
    .jpeg()
    .withExif({ IFD0: { Make: 'Halden', Model: 'H-20' }, IFD2: { DateTimeOriginal: '2020:01:01 10:00:00' } })
    .toBuffer();
const AT = new Date('2020-01-01T00:00:00Z');

/** Small JPEGs in folders of a hundred, each with a comment of its own, and a level of many empty folders beside them. */
async function make(root, files) {
  const drawn = await drawnPicture();
  // Start of image, a comment of 1,400 bytes (ITU-T T.81, B.2.4.5), the rest.
  const comment = Buffer.alloc(1_404, 0x20);
  comment.writeUInt16BE(0xfffe, 0);
  comment.writeUInt16BE(1_402, 2);
  for (let n = 0; n < files; n++) {
    const folder = join(root, 'small', `day ${String(Math.floor(n / 100)).padStart(5, '0')}`);
    if (n % 100 === 0) mkdirSync(folder, { recursive: true });
    comment.write(String(n).padStart(9, '0'), 8);
    const path = join(folder, `P_${String(n).padStart(6, '0')}.jpg`);
    writeFileSync(path, Buffer.concat([drawn.subarray(0, 2), comment, drawn.subarray(2)]));
    utimesSync(path, AT, AT);
  }
  for (let n = 0; n < some(FOLDERS); n++) mkdirSync(join(root, 'many', `f${String(n).padStart(5, '0')}`), { recursive: true });
}

/** JPEGs as large as cameras make them: what matters to whoever reads them stands at both ends. */
async function makePictures(folder) {
  const drawn = await drawnPicture();
  mkdirSync(folder, { recursive: true });
  for (let n = 0; n < some(PICTURES); n++) {
    const path = join(folder, `L_${String(n).padStart(4, '0')}.jpg`);
    writeFileSync(path, Buffer.concat([drawn.subarray(0, -2), randomBytes(PICTURE_BYTES - drawn.length), drawn.subarray(-2)]));
    utimesSync(path, AT, AT);
  }
}
