import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { until } from '../../server/src/testing/house.js';

const SFTP = '/usr/lib/openssh/sftp-server';

/** Why no drive can be mounted over a network here; null when it can. */
export function whyNoNetworkDrive(): string | null {
  if (process.getuid?.() !== 0) return 'only root may mount';
  if (!existsSync('/dev/fuse')) return 'there is no /dev/fuse';
  if (!existsSync('/usr/bin/sshfs')) return 'sshfs is not installed';
  if (!existsSync(SFTP)) return 'sftp-server is not installed';
  return null;
}

/**
 * The line between a server and whoever mounts it, in a process of its own, so that it goes on while a test waits for a file:
 * it carries what SFTP says, and can be slow (30 ms for each piece), be cut (nobody answers, connections end), or hang (nothing is
 * carried any more).
 */
const LINE = `
  const { createServer } = require('node:net');
  const { spawn } = require('node:child_process');
  const { Transform } = require('node:stream');
  let state = 'up';
  const sockets = new Set();
  const server = createServer((socket) => {
    if (state === 'cut') return socket.destroy();
    sockets.add(socket);
    const sftp = spawn(process.argv[1], [], { stdio: ['pipe', 'pipe', 'ignore'] });
    const slowly = () => new Transform({ transform: (part, _, next) => setTimeout(next, state === 'slow' ? 30 : 0, null, part) });
    socket.pipe(slowly()).pipe(sftp.stdin);
    sftp.stdout.pipe(slowly()).pipe(socket);
    const over = () => { sockets.delete(socket); sftp.kill(); socket.destroy(); };
    for (const stream of [socket, sftp.stdin, sftp.stdout]) stream.on('error', over);
    socket.on('close', over);
    sftp.on('exit', over);
    if (state === 'hang') socket.pause();
  });
  process.on('message', (next) => {
    state = next;
    for (const socket of sockets) {
      if (state === 'cut') socket.destroy();
      else if (state === 'hang') socket.pause();
      else socket.resume();
    }
    process.send({ state });
  });
  process.on('disconnect', () => process.exit());
  server.listen(0, '127.0.0.1', () => process.send({ port: server.address().port }));`;

/** A folder that is mounted over SFTP (SSH File Transfer Protocol, draft-ietf-secsh-filexfer-02, as OpenSSH speaks it) by sshfs. */
export class NetworkDrive {
  private constructor(
    private readonly line: ChildProcess,
    /** Where it really is: its server's side. */
    readonly served: string,
    /** Where it is mounted. */
    readonly at: string,
  ) {}

  static async make(folder: string): Promise<NetworkDrive> {
    const [served, at] = [join(folder, 'served'), join(folder, 'mounted')];
    for (const path of [join(served, 'pictures'), at]) mkdirSync(path, { recursive: true });
    const line = spawn(process.execPath, ['-e', LINE, SFTP], { stdio: ['ignore', 'ignore', 'inherit', 'ipc'] });
    const port = await new Promise<number>((resolve) => line.once('message', (said) => resolve((said as { port: number }).port)));
    const drive = new NetworkDrive(line, served, at);
    const options = `directport=${port},reconnect,attr_timeout=0,entry_timeout=0,dcache_timeout=1`;
    spawn('sshfs', ['-o', options, `127.0.0.1:${served}`, at], { stdio: 'ignore' });
    await until(() => Promise.resolve(drive.isMounted), 30);
    return drive;
  }

  private get isMounted(): boolean {
    return readFileSync('/proc/mounts', 'utf8').includes(` ${this.at} fuse.sshfs `);
  }

  /** @param state up; slow: each piece takes its time; cut: connections end and nobody answers; hang: nothing is carried, and nobody says so. */
  async is(state: 'up' | 'slow' | 'cut' | 'hang'): Promise<void> {
    const heard = new Promise((resolve) => this.line.once('message', resolve));
    this.line.send(state);
    await heard;
  }

  async end(): Promise<void> {
    await this.is('cut');
    // Whoever still waits for it is told that it is gone.
    spawn('umount', ['-l', this.at], { stdio: 'ignore' });
    await until(() => Promise.resolve(!this.isMounted), 30);
    this.line.kill();
  }
}
