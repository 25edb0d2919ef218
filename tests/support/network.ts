import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, appendFileSync, chmodSync, chownSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freeSubnet, networkName } from './own-network.js';

const run = (...command: string[]): string =>
  execFileSync(command[0]!, command.slice(1), { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'], cwd: '/' });

/** Why there can be no network of one's own here; null when there can. */
export function whyNoNetwork(): string | null {
  if (process.getuid?.() !== 0) return 'only root may make network namespaces';
  try {
    run('ip', 'netns', 'add', networkName(`t${process.pid % 1000}`));
    run('ip', 'netns', 'delete', networkName(`t${process.pid % 1000}`));
    return null;
  } catch (error) {
    return `network namespaces cannot be made (${(error as Error).message.split('\n')[0]!})`;
  }
}

/**
 * A small network of this test's own: a cable to each machine, all in one switch, at which this process sits too. Machines
 * are network namespaces; what runs in one of them sees its own end of the cable and nothing else.
 */
export class Network {
  private readonly subnet = freeSubnet();
  readonly address = `${this.subnet}.1`;
  private machines = 0;

  constructor() {
    run('ip', 'link', 'add', this.switch, 'type', 'bridge');
    run('ip', 'address', 'add', `${this.address}/24`, 'dev', this.switch);
    run('ip', 'link', 'set', this.switch, 'up');
  }

  private get switch(): string {
    return networkName('s0');
  }
  private readonly name = (machine: number) => networkName(`m${machine}`);
  private readonly plug = (machine: number) => networkName(`p${machine}`);

  /** @returns its number. */
  addMachine(): number {
    const machine = ++this.machines;
    const inside = networkName(`i${machine}`);
    run('ip', 'netns', 'add', this.name(machine));
    run('ip', 'link', 'add', this.plug(machine), 'type', 'veth', 'peer', 'name', inside);
    run('ip', 'link', 'set', inside, 'netns', this.name(machine));
    run('ip', 'link', 'set', this.plug(machine), 'master', this.switch, 'up');
    const within = (...command: string[]) => run('ip', '-n', this.name(machine), ...command);
    within('address', 'add', `${this.subnet}.${10 + machine}/24`, 'dev', inside);
    within('link', 'set', inside, 'up');
    within('link', 'set', 'lo', 'up');
    return machine;
  }

  /** What runs a command on a machine. */
  on(machine: number): string[] {
    return ['ip', 'netns', 'exec', this.name(machine)];
  }

  /** Pulls a machine's cable: nobody is told. */
  cut(machine: number): void {
    run('ip', 'link', 'set', this.plug(machine), 'down');
  }

  mend(machine: number): void {
    run('ip', 'link', 'set', this.plug(machine), 'up');
  }

  remove(): void {
    for (let machine = 1; machine <= this.machines; machine++) run('ip', 'netns', 'delete', this.name(machine));
    run('ip', 'link', 'delete', this.switch);
  }
}

/** A PostgreSQL that answers at an address of this network. */
export class NetworkDatabase {
  private readonly folder = mkdtempSync(join(tmpdir(), 'tally-network-db-'));
  private readonly port = 20_000 + (process.pid % 10_000);

  constructor(private readonly address: string) {
    const { uid, gid } = this.postgres();
    chownSync(this.folder, uid, gid);
    chmodSync(this.folder, 0o700);
    this.program('initdb', '-D', this.data, '-A', 'trust', '-U', 'owner', '-E', 'UTF8', '--locale=C.UTF-8', '-N');
    appendFileSync(join(this.data, 'pg_hba.conf'), `host all all ${address}/24 trust\n`);
    const options = `-p ${this.port} -c listen_addresses=${address} -c unix_socket_directories= -c fsync=off -c max_connections=150`;
    this.program('pg_ctl', '-D', this.data, '-w', '-l', join(this.folder, 'log'), '-o', options, 'start');
  }

  /** @param user `owner`, or one that was created. */
  url(user: string): string {
    return `postgres://${user}@${this.address}:${this.port}/postgres`;
  }

  remove(): void {
    this.program('pg_ctl', '-D', this.data, '-w', '-m', 'immediate', 'stop');
    rmSync(this.folder, { recursive: true, force: true });
  }

  private get data(): string {
    return join(this.folder, 'data');
  }

  private postgres(): { uid: number; gid: number } {
    return { uid: Number(run('id', '-u', 'postgres')), gid: Number(run('id', '-g', 'postgres')) };
  }

  private program(name: string, ...args: string[]): void {
    const base = '/usr/lib/postgresql';
    const newest = readdirSync(base)
      .sort((a, b) => Number(b) - Number(a))
      .find((version) => existsSync(join(base, version, 'bin', name)))!;
    // It stays when this command is over: nothing of it may keep this process's pipes open.
    execFileSync('runuser', ['-u', 'postgres', '--', join(base, newest, 'bin', name), ...args], { cwd: '/', stdio: 'ignore' });
  }
}
