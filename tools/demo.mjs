// npm run demo: from a fresh machine to a running house with demo data. --fresh, --port N, --data DIR
import { rmSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { removeCluster, freePort } from './parts/cluster.mjs';
import { holdFolder } from './parts/lock.mjs';
import { build, checkNode, packages, ROOT } from './parts/ready.mjs';
import { end } from './parts/run.mjs';
import { giveUp, say } from './parts/say.mjs';
import { startServer, untilStopped } from './parts/serve.mjs';

checkNode();
const options = { fresh: { type: 'boolean' }, port: { type: 'string' }, data: { type: 'string' } };
let args;
try {
  args = parseArgs({ options }).values;
} catch (error) {
  giveUp(`${error.message}\nUse: npm run demo -- [--fresh] [--port N] [--data DIR]`);
}
const wishedPort = args.port === undefined ? 0 : Number(args.port);
if (!Number.isInteger(wishedPort) || wishedPort < 0 || wishedPort > 65535) giveUp(`--port ${args.port} is not a port.`);
const data = resolve(args.data ?? join(ROOT, '.tally/demo'));
const lock = await holdFolder(`${data}.lock`, 'This demo');

await packages('run');
build();
if (args.fresh) {
  removeCluster(join(data, 'db'));
  rmSync(data, { recursive: true, force: true });
}
const { ACCOUNTS, DIRECTORY, openDemoHouse } = await import('./parts/demo-house.mjs');
const house = await openDemoHouse(data, { port: wishedPort || (await isFree(4700)) });
const panel = await house.startPanel();
const directory = house.startDirectory();
const server = await startServer(house.settingsFile, house.settings.port);
const address = `http://127.0.0.1:${house.settings.port}`;
lock.note({ address, children: [server.pid, panel.child.pid, directory.pid] });

say(`
  Tally Stick is running at  ${address}
  Sign in as                 ${ACCOUNTS.map((a) => `${a.name} / ${a.password}`).join('   or   ')}
  By the Trust's directory   ${DIRECTORY.map((a) => `${a.name} / ${a.password}`).join('   or   ')}
  Put cards in and out at    http://127.0.0.1:${panel.port}
  Everything lies in         ${data}
  On the command line        npx tally --settings ${house.settingsFile} log

  Ctrl-C ends it. npm run demo -- --fresh begins anew.
`);
untilStopped([server, panel.child], async () => {
  await Promise.all([end(server), end(panel.child), end(directory)]);
  house.cluster.stop();
  lock.release();
});

async function isFree(port) {
  const { createServer } = await import('node:net');
  return new Promise((done) => {
    const probe = createServer().once('error', () => done(freePort()));
    probe.listen(port, '127.0.0.1', () => probe.close(() => done(port)));
  });
}
