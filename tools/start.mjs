// npm start: for real use. npm start -- --bring-back FOLDER: a backup is brought back into a house that is new, which then starts.
// Settings from tally.json or the environment; a database of its own unless TALLY_DATABASE_URL says where.
import { chmodSync, existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { spawnSync } from 'node:child_process';
import { parseArgs } from 'node:util';
import { startCluster } from './parts/cluster.mjs';
import { holdFolder } from './parts/lock.mjs';
import { build, checkNode, packages, ROOT } from './parts/ready.mjs';
import { end, start } from './parts/run.mjs';
import { giveUp, say, step } from './parts/say.mjs';
import { migrated, untilStopped } from './parts/serve.mjs';

const { values } = parseArgs({ options: { 'bring-back': { type: 'string' } } });

checkNode();
await packages('run');
build();
const home = join(ROOT, '.tally');
mkdirSync(home, { recursive: true });
const lock = await holdFolder(join(home, 'start.lock'), 'Tally Stick');

// Without any settings, a first file is written that works at once and is easy to change.
const ownFile = ['tally.json', '.tally/tally.json'].map((name) => join(ROOT, name)).find((path) => existsSync(path));
if (!ownFile && !process.env.TALLY_SETTINGS && !process.env.TALLY_SHARED_DRIVE) {
  const first = {
    dataDir: 'server',
    // Both stand beside the program until you name your own.
    systemDisk: 'knowingly',
    places: [
      { id: 'shared', name: 'Shared drive', kind: 'shared drive', root: 'shared-drive' },
      { id: 'second', name: 'Second copy', kind: 'second copy', root: 'second-copy' },
    ],
  };
  writeFileSync(join(home, 'tally.json'), `${JSON.stringify(first, null, 2)}\n`);
  // A place is used where it stands, and never made: one whose path is mistyped would be taken for a drive.
  for (const { root } of first.places) mkdirSync(join(home, root), { recursive: true });
  step('wrote .tally/tally.json: name your shared drive and your second copy there');
}
const env = {
  TALLY_SETTINGS:
    (process.env.TALLY_SETTINGS && resolve(process.env.TALLY_SETTINGS)) ??
    ownFile ??
    (process.env.TALLY_SHARED_DRIVE ? '' : join(home, 'tally.json')),
  UV_THREADPOOL_SIZE: '16',
};
if (!process.env.TALLY_DATA && !env.TALLY_SETTINGS) env.TALLY_DATA = join(home, 'server');
let cluster = null;
if (!process.env.TALLY_DATABASE_URL) {
  cluster = await startCluster(join(home, 'db'));
  cluster.ensureDatabase('tally');
  env.TALLY_DATABASE_URL = cluster.appUrl('tally');
  env.TALLY_DATABASE_BACKUP_URL = cluster.backupUrl('tally');
}
// The owner's secret is for this, and for nothing that runs on: neither the server nor what it starts ever has it.
const owner = cluster?.adminUrl('tally') ?? process.env.TALLY_DATABASE_ADMIN_URL;
if (values['bring-back'] !== undefined) broughtBack(resolve(values['bring-back']));
if (owner) migrated(env.TALLY_SETTINGS, owner, env);
delete process.env.TALLY_DATABASE_ADMIN_URL;
// The command line finds the same house by this. A database of somebody else's may have its password in its address.
const started = join(home, 'started.json');
const HOUSE =
  /^TALLY_(SETTINGS|DATABASE_URL|DATABASE_BACKUP_URL|DATA|HOUSE|ZONE|DATES|STATION|READERS|SHARED_DRIVE|SECOND_COPY|PORT|HOST)$/;
const told = Object.entries({ ...process.env, ...env }).filter(([name, value]) => HOUSE.test(name) && value);
writeFileSync(started, `${JSON.stringify({ env: Object.fromEntries(told) }, null, 2)}\n`, { mode: 0o600 });
chmodSync(started, 0o600);
const server = start(process.execPath, ['--enable-source-maps', join(ROOT, 'server/dist/main.js')], { cwd: ROOT, env });
lock.note({ children: [server.pid] });
say('Starting. Ctrl-C ends it.');
untilStopped([server], async () => {
  await end(server);
  cluster?.stop();
  lock.release();
});

/** Into the empty database of a new house, as its owner. What it says is shown. */
function broughtBack(folder) {
  const named = env.TALLY_SETTINGS ? ['--settings', env.TALLY_SETTINGS] : [];
  const secret = owner ? { TALLY_DATABASE_ADMIN_URL: owner } : {};
  const done = spawnSync(process.execPath, [join(ROOT, 'server/bin/tally.mjs'), ...named, 'bring-back', folder, '--sure'], {
    env: { ...process.env, ...env, ...secret },
    stdio: 'inherit',
  });
  // 1: it is back, and there is something on the drive that it does not know.
  if (done.status === null || done.status > 1) giveUp('Nothing was brought back: see above.');
}
