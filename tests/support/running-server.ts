import { spawn, type ChildProcess } from 'node:child_process';
import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { freshDatabase, type FreshDatabase } from '../../server/src/testing/database.js';

export const ROOT = fileURLToPath(new URL('../..', import.meta.url));
const PASSWORD = 'hazel-and-reed';

/** The built product as processes of its own, with a database, two places and a reader in a scratch folder. */
export class RunningServer {
  private child: ChildProcess | null = null;
  private cookie = '';

  private constructor(
    readonly folder: string,
    readonly database: FreshDatabase,
    private readonly port: number,
  ) {}

  static async prepare(): Promise<RunningServer> {
    const folder = await mkdtemp(join(tmpdir(), 'tally-running-'));
    const database = await freshDatabase();
    const port = await freePort();
    for (const name of ['reader', 'shared', 'second']) await mkdir(join(folder, name));
    const settings = {
      databaseUrl: database.appUrl,
      backup: 'by hand',
      databaseAdminUrl: database.adminUrl,
      port,
      dataDir: 'data',
      zone: 'Europe/London',
      station: 'Test station',
      readers: ['reader/*'],
      places: [
        { id: 'shared', name: 'Shared drive', kind: 'shared drive', root: 'shared' },
        { id: 'second', name: 'Second copy', kind: 'second copy', root: 'second' },
      ],
      systemDisk: 'knowingly',
      log: 'error',
    };
    await writeFile(join(folder, 'tally.json'), JSON.stringify(settings));
    return new RunningServer(folder, database, port);
  }

  get settingsFile(): string {
    return join(this.folder, 'tally.json');
  }

  path(...parts: string[]): string {
    return join(this.folder, ...parts);
  }

  /** Starts it; resolves when it answers and somebody is signed in. */
  async start(): Promise<void> {
    const env = {
      ...process.env,
      NODE_OPTIONS: '',
      TALLY_SETTINGS: this.settingsFile,
      TALLY_ADMIN_NAME: 'wren',
      TALLY_ADMIN_PASSWORD: PASSWORD,
    };
    this.child = spawn(process.execPath, [join(ROOT, 'server/dist/main.js')], { env, stdio: ['ignore', 'ignore', 'inherit'] });
    await until(async () => (await fetch(this.url('/api/health'))).ok);
    if (this.cookie) return;
    const response = await fetch(this.url('/api/session'), {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: 'wren', password: PASSWORD }),
    });
    this.cookie = response.headers.get('set-cookie')!.split(';')[0]!;
  }

  /** Ends it as a power cut would. */
  async kill(): Promise<void> {
    await this.end('SIGKILL');
  }

  async stop(): Promise<void> {
    await this.end('SIGTERM');
    await this.database.drop();
    await rm(this.folder, { recursive: true, force: true });
  }

  async get<T>(path: string): Promise<T> {
    const response = await fetch(this.url(path), { headers: { cookie: this.cookie } });
    if (!response.ok) throw new Error(`${path}: ${response.status} ${await response.text()}`);
    return (await response.json()) as T;
  }

  async send<T>(method: 'POST' | 'PATCH', path: string, body: unknown): Promise<T> {
    const response = await fetch(this.url(path), {
      method,
      headers: { cookie: this.cookie, 'content-type': 'application/json' },
      body: JSON.stringify(body),
    });
    if (!response.ok) throw new Error(`${path}: ${response.status} ${await response.text()}`);
    const text = await response.text();
    return (text ? JSON.parse(text) : null) as T;
  }

  private url(path: string): string {
    return `http://127.0.0.1:${this.port}${path}`;
  }

  private async end(signal: NodeJS.Signals): Promise<void> {
    const { child } = this;
    this.child = null;
    if (child?.exitCode !== null) return;
    const gone = new Promise((resolve) => child.once('exit', resolve));
    child.kill(signal);
    await gone;
  }
}

/** Asks again until the answer is yes. */
export async function until(ask: () => Promise<boolean>, seconds = 60): Promise<void> {
  const end = Date.now() + seconds * 1000;
  for (;;) {
    if (await ask().catch(() => false)) return;
    if (Date.now() > end) throw new Error(`not within ${seconds} s: ${ask.toString()}`);
    await new Promise((resolve) => setTimeout(resolve, 60));
  }
}

function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });
}
