import { chromium, type Browser } from '@playwright/test';
import { execFileSync, spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { createHash, X509Certificate } from 'node:crypto';
import { chmodSync, readFileSync, writeFileSync } from 'node:fs';
import { connect as plain, createServer, type AddressInfo, type Server, type Socket } from 'node:net';
import { Transform } from 'node:stream';
import { connect } from 'node:tls';
import { fileURLToPath } from 'node:url';
import options from '../../tools/parts/chromium.json' with { type: 'json' };
import { inHouse } from './my-house.js';
import { freeSubnet, networkName } from './own-network.js';

const ROOT = fileURLToPath(new URL('../..', import.meta.url));

/** Another machine, as far as the network is concerned, with a browser on it. */
export interface Elsewhere {
  /** Where the house is spoken to from there, over HTTPS. */
  readonly base: string;
  readonly browser: Browser;
  /** A network namespace, or (where none may be made) this machine's own. */
  readonly where: string;
  readonly isAnotherMachine: boolean;
  /** The next connections break off, as on a bad line. */
  cut(): void;
  end(): Promise<void>;
}

/** The line delays every piece by this. The kernels here have no queue that delays and loses (netem): a relay does. */
const DELAY_MS = 25;

const sh = (...words: string[]) => execFileSync(words[0]!, words.slice(1), { stdio: 'pipe' });

/** Makes a namespace joined to this one by a pair of interfaces. @returns the near end's address; null: it may not be made. */
function joined(name: string, net: number): string | null {
  const subnet = freeSubnet();
  if (spawnSync('ip', ['netns', 'add', name]).status !== 0) return null;
  const [near, far] = [networkName(`a${net}`), networkName(`b${net}`)];
  try {
    sh('ip', 'link', 'add', near, 'type', 'veth', 'peer', 'name', far);
    sh('ip', 'link', 'set', far, 'netns', name);
    sh('ip', 'addr', 'add', `${subnet}.1/24`, 'dev', near);
    sh('ip', 'link', 'set', near, 'up');
    for (const words of [
      ['addr', 'add', `${subnet}.2/24`, 'dev', far],
      ['link', 'set', far, 'up'],
      ['link', 'set', 'lo', 'up'],
    ])
      sh('ip', 'netns', 'exec', name, 'ip', ...words);
    return `${subnet}.1`;
  } catch {
    parted(name, net);
    return null;
  }
}

function parted(name: string, net: number): void {
  spawnSync('ip', ['link', 'del', networkName(`a${net}`)]);
  spawnSync('ip', ['netns', 'del', name]);
}

const later = () =>
  new Transform({
    transform(piece: Buffer, _encoding, done) {
      setTimeout(() => done(null, piece), DELAY_MS);
    },
  });

/** A line that delays, and breaks when told to. */
async function line(host: string, to: number): Promise<{ server: Server; port: number; cut: () => void }> {
  const open = new Set<Socket>();
  const server = createServer((near) => {
    const far = plain(to, '127.0.0.1');
    for (const socket of [near, far]) {
      open.add(socket);
      socket.on('error', () => socket.destroy());
      socket.on('close', () => {
        open.delete(socket);
        near.destroy();
        far.destroy();
      });
    }
    near.pipe(later()).pipe(far);
    far.pipe(later()).pipe(near);
  });
  await new Promise<void>((resolve) => server.listen(0, host, resolve));
  return { server, port: (server.address() as AddressInfo).port, cut: () => open.forEach((socket) => socket.destroy()) };
}

/** Hash of the key of a certificate, as a browser takes it for one that it trusts (RFC 7469, 2.4). */
function pinOf(port: number): Promise<string> {
  return new Promise((resolve, reject) => {
    const socket = connect({ port, host: '127.0.0.1', rejectUnauthorized: false }, () => {
      const { publicKey } = new X509Certificate(socket.getPeerCertificate().raw);
      resolve(
        createHash('sha256')
          .update(publicKey.export({ type: 'spki', format: 'der' }))
          .digest('base64'),
      );
      socket.end();
    }).on('error', reject);
  });
}

const freePort = () =>
  new Promise<number>((resolve) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as AddressInfo;
      probe.close(() => resolve(port));
    });
  });

/** A second server of this worker's house, over HTTPS, for whoever is elsewhere. */
async function overHttps(host: string, port: number): Promise<ChildProcess> {
  const settings = JSON.parse(readFileSync(inHouse('tally.json'), 'utf8')) as object;
  const file = inHouse('tally-https.json');
  const own = { role: 'server', host: '127.0.0.1', port, https: 'made here', hosts: [host], station: 'The office' };
  writeFileSync(file, JSON.stringify({ ...settings, ...own }), { mode: 0o600 });
  const server = spawn(process.execPath, [`${ROOT}/server/dist/main.js`], {
    cwd: ROOT,
    env: { ...process.env, TALLY_SETTINGS: file },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((resolve, reject) => {
    server.stdout.on('data', (said: Buffer) => said.toString().includes('ready at https://') && resolve());
    server.once('exit', (code) => reject(new Error(`the second server ended with ${code}`)));
  });
  return server;
}

/** @param net number of the network, one for each worker of the journeys. */
export async function openElsewhere(net: number): Promise<Elsewhere> {
  const name = networkName(`u${net}`);
  parted(name, net);
  const near = joined(name, net);
  const host = near ?? '127.0.0.1';
  const port = await freePort();
  const server = await overHttps(host, port);
  const wire = await line(host, port);
  const program = inHouse('chromium-elsewhere.sh');
  writeFileSync(program, `#!/bin/sh\nexec ${near ? `ip netns exec ${name} ` : ''}${options.executablePath} "$@"\n`);
  chmodSync(program, 0o755);
  const args = [...options.args, `--ignore-certificate-errors-spki-list=${await pinOf(port)}`];
  const browser = await chromium.launch({ executablePath: program, args });
  return {
    base: `https://${host}:${wire.port}`,
    where: near ? 'another network namespace' : 'no network namespace may be made here: handed in from this machine instead',
    isAnotherMachine: near !== null,
    browser,
    cut: wire.cut,
    end: async () => {
      await browser.close();
      wire.server.close();
      wire.cut();
      server.kill();
      await new Promise((resolve) => server.once('exit', resolve));
      parted(name, net);
    },
  };
}
