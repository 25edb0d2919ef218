import type { Server } from 'node:http';
import { createServer } from 'node:net';
import { fileURLToPath } from 'node:url';
import { tellExport } from './audit/index.js';
import { healthOfBackups } from './backing/index.js';
import { answersOf } from './answers.js';
import { compose } from './composition.js';
import { answering } from './db/database.js';
import { webApp } from './http/app.js';
import { hostsOf } from './http/hosts.js';
import { mustBePrivate, serverOf } from './http/listening.js';
import { readSettings, SettingsError, type Settings } from './settings.js';
import { Worker } from './work/worker.js';
import { worksOf } from './works.js';
import { withheldNames } from './people/index.js';
import { Access, ensureAdministrator } from './door/index.js';
import { Previewer } from './seeing/index.js';
import { shelfNow } from './shelf/index.js';

const PAGES = fileURLToPath(new URL('../../web/dist/web/browser', import.meta.url));

/** The server, a worker, or both: what the settings say. */
async function main(): Promise<void> {
  const { settings } = readSettings(process.env, process.cwd());
  // Before anything is made or shown that is shown once only.
  if (settings.role !== 'worker') {
    mustBePrivate(settings);
    await mustBeFree(settings);
  }
  const { house, queue, urgency, bus, close } = await compose(settings);
  const { db, log, clock } = house;
  // A queue that cannot be is told at the start, and not in the middle of somebody's request.
  await queue.start();
  const first = await ensureAdministrator(db, process.env, clock());
  if (first)
    console.log(
      `First administrator: ${first.name}${first.code ? `, code ${first.code} instead of a password (shown only now)` : ''}`,
    );

  const worker =
    settings.role === 'server' ? null : new Worker(worksOf(house), queue, settings.station, house.intervals, log, bus);
  let server: Server | null = null;
  bus.start();
  if (settings.role !== 'worker') {
    const access = new Access(house);
    const answers = answersOf(house, access);
    const app = webApp({
      answers,
      access,
      bus,
      urgency,
      log,
      health: () => answering(db).then(() => healthOfBackups(house)),
      exported: tellExport(house),
      withheld: () => withheldNames(house),
      settings,
      hosts: hostsOf(settings),
      pages: PAGES,
    });
    server = await listen(await serverOf(app, settings, log), settings);
    // Whoever asks first need not wait until it is read.
    shelfNow(house).catch((error: unknown) => log.warn({ error: String(error) }, 'reading the shelf'));
    console.log(`Tally Stick is ready at ${settings.https ? 'https' : 'http'}://${settings.host}:${settings.port}`);
  }
  // Whoever has the readers makes their pictures, also for those who look from elsewhere.
  const previewer = settings.role === 'server' ? null : new Previewer(house);
  await worker?.start();
  previewer?.start();

  let ending = false;
  const end = async (signal: string) => {
    if (ending) return;
    ending = true;
    log.info({ signal }, 'ending');
    setTimeout(() => process.exit(1), 10_000).unref();
    server?.close();
    server?.closeAllConnections();
    await bus.stop();
    await worker?.stop();
    await previewer?.stop();
    await close();
    process.exit(0);
  };
  process.on('SIGTERM', () => void end('SIGTERM'));
  process.on('SIGINT', () => void end('SIGINT'));
  process.on('unhandledRejection', (reason) => log.error({ reason: String(reason) }, 'unhandled'));
  log.info({ role: settings.role, port: settings.port, station: settings.station }, 'ready');
  process.send?.('ready');
}

/** @throws SettingsError when something else listens where this would. */
async function mustBeFree({ port, host }: Settings): Promise<void> {
  const probe = createServer();
  try {
    await new Promise<void>((resolve, reject) => probe.once('error', reject).listen(port, host, resolve));
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    const why = code === 'EADDRINUSE' ? 'is used by another program' : `cannot be listened on (${code})`;
    throw new SettingsError(`Port ${port} of ${host} ${why}. Say another one: TALLY_PORT=4701, or "port" in the settings.`);
  }
  await new Promise((resolve) => probe.close(resolve));
}

function listen(server: Server, { port, host }: Settings): Promise<Server> {
  return new Promise((resolve, reject) => {
    server.once('error', reject).listen(port, host, () => resolve(server));
  });
}

main().catch((error: unknown) => {
  const known = error instanceof SettingsError;
  const text = (error as Error).message;
  console.error(
    known
      ? text
      : `Tally Stick could not start: ${text.includes('ECONNREFUSED') ? `the database does not answer (${text})` : text}`,
  );
  process.exit(known ? 2 : 1);
});
