// A demonstration house in a folder: database, demo data, settings. Used by demo, tests of journeys, and screenshots.
import {
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { startCluster, freePort } from './cluster.mjs';
import { answers, migrated } from './serve.mjs';
import { hashOf, known } from './known.mjs';
import { ROOT } from './ready.mjs';
import { run, start } from './run.mjs';
import { giveUp, step } from './say.mjs';

const { HOUSE, ZONE, DEMO_NOW, ACCOUNTS } = await import(join(ROOT, 'standins/dist/demo/people.js')).catch(() => ({}));
const { CLIENT, DIRECTORY } = await import(join(ROOT, 'standins/dist/directory/people.js')).catch(() => ({}));
export { ACCOUNTS, DIRECTORY };

const PROVIDER = join(ROOT, 'standins/dist/directory/provider.js');

/** Cards that lie in the reader when the demonstration is new. */
const AT_START = ['HALDEN_M4', 'BRISLING_7', 'HALDEN_M2'];

const SLOT = join(ROOT, 'standins/dist/reader/slot.js');

/** Demo data are drawn once on a machine, and again when what draws them changes; they are copied from there. */
export function drawnOnce() {
  const cache = known('demo', hashOf(ROOT, ['standins/src', 'core/src', 'package-lock.json']));
  if (!existsSync(join(cache, 'story.json'))) {
    step('drawing the demo pictures (a minute or two, once)');
    mkdirSync(known('demo'), { recursive: true });
    const done = run(process.execPath, [join(ROOT, 'standins/dist/demo/make.js'), cache]);
    if (done.code !== 0) giveUp(`The demo pictures could not be drawn:\n${done.out}`);
  }
  return cache;
}

/**
 * Opens the house in `data`, making what is missing. `frozen` stops the demo clock at its start; `past` is how many of
 * the earlier cards are filed, the newest.
 * @returns the cluster, the settings file, ports, and how to start the reader's panel.
 */
export async function openDemoHouse(
  data,
  { port = 0, frozen = false, testing = false, cards = AT_START, past = Infinity, backedUp = !testing } = {},
) {
  mkdirSync(data, { recursive: true });
  const cluster = await startCluster(join(data, 'db'), { testing });
  cluster.ensureDatabase('tally');
  const reader = join(data, 'cards');
  const madeFile = join(data, 'made.json');
  const isNew = !existsSync(madeFile);
  if (isNew) {
    for (const name of ['cards', 'shared-drive', 'second-copy', 'off-site', 'off-site.cut', 'server'])
      rmSync(join(data, name), { recursive: true, force: true });
    cpSync(drawnOnce(), reader, { recursive: true, preserveTimestamps: true });
    mkdirSync(join(reader, 'reader'), { recursive: true });
  }
  const setAt = isNew ? new Date().toISOString() : JSON.parse(readFileSync(madeFile, 'utf8')).setAt;
  // The Trust's directory, by which its staff may sign in: a stand-in whose secret is made up, as everything here.
  const directory = { port: await freePort(), secretFile: join(data, 'directory.secret') };
  writeFileSync(directory.secretFile, CLIENT.secret, { mode: 0o600 });
  const settings = {
    databaseUrl: cluster.appUrl('tally'),
    databaseBackupUrl: cluster.backupUrl('tally'),
    port: port || (await freePort()),
    dataDir: 'server',
    systemDisk: 'knowingly',
    house: HOUSE,
    zone: ZONE,
    station: 'Station 2, Boathouse',
    readers: ['cards/reader/*'],
    // The stand-in reader has a face of its own: what the system would say of a card, and how it is let go.
    reader: { look: [process.execPath, SLOT, 'look', '{folder}'], letGo: [process.execPath, SLOT, 'let-go', '{folder}'] },
    places: [
      { id: 'shared', name: 'Shared drive', kind: 'shared drive', root: 'shared-drive', device: 'stand-in drive one' },
      { id: 'second', name: 'Second copy', kind: 'second copy', root: 'second-copy', device: 'stand-in drive two' },
      // Somewhere else, over a slow line that the panel can cut.
      {
        ...{ id: 'offsite', name: 'Off-site copy', kind: 'off-site copy', root: 'off-site', device: 'stand-in drive three' },
        bytesPerSecond: 8_000_000,
      },
    ],
    directory: {
      ...{
        name: 'Trust directory',
        issuer: `http://127.0.0.1:${directory.port}`,
        clientId: CLIENT.id,
        secretFile: 'directory.secret',
      },
      roles: { 'media desk': 'coordinator', volunteers: 'looker' },
    },
    // Houses of tests are backed up where that is what is tried.
    ...(backedUp ? {} : { backup: 'by hand' }),
    log: testing ? 'error' : 'warn',
    clock: { startsAt: DEMO_NOW, setAt, frozen },
  };
  for (const { root } of settings.places) mkdirSync(join(data, root), { recursive: true });
  const settingsFile = join(data, 'tally.json');
  writeFileSync(settingsFile, JSON.stringify(settings, null, 2), { mode: 0o600 });
  migrated(settingsFile, cluster.adminUrl('tally'));
  if (isNew) {
    const story = join(reader, 'story.json');
    const told = JSON.parse(readFileSync(story, 'utf8'));
    const intakes = told.intakes.slice(-Math.min(past, told.intakes.length));
    writeFileSync(story, JSON.stringify({ ...told, intakes }));
    step(`filing ${intakes.length} earlier cards`);
    const tally = (...words) => {
      const command = [join(ROOT, 'server/bin/tally.mjs'), '--settings', settingsFile, ...words];
      const done = run(process.execPath, command, { env: { UV_THREADPOOL_SIZE: '16' } });
      if (done.code !== 0) giveUp(`The demo data could not be filed:\n${done.out}`);
    };
    tally('replay', story);
    // What explains the files is written, too.
    tally('fill', 'second');
    othersHands(join(data, 'shared-drive'), reader);
    decay(join(data, 'second-copy'));
    for (const volume of cards) moveCard(reader, volume);
    writeFileSync(madeFile, JSON.stringify({ setAt }));
  }
  const startDirectory = () => {
    const home = `http://127.0.0.1:${settings.port}`;
    return start(process.execPath, [PROVIDER, String(directory.port), home], { env: { NODE_NO_WARNINGS: '1' }, quiet: true });
  };
  const panel = (wished) => startPanel(reader, wished, join(data, 'off-site'));
  return { cluster, settings, settingsFile, reader, startPanel: panel, startDirectory };
}

/** A second house like one that nobody has open: its files and its database are copied. */
export async function copyDemoHouse(house, from, to, name) {
  house.cluster.ensureDatabase(name, 'tally');
  mkdirSync(to, { recursive: true });
  for (const folder of ['cards', 'shared-drive', 'second-copy', 'off-site', 'server'])
    if (existsSync(join(from, folder)))
      cpSync(join(from, folder), join(to, folder), { recursive: true, preserveTimestamps: true });
  const { cluster } = house;
  const settings = {
    ...house.settings,
    databaseUrl: cluster.appUrl(name),
    databaseBackupUrl: cluster.backupUrl(name),
    port: await freePort(),
  };
  const settingsFile = join(to, 'tally.json');
  writeFileSync(settingsFile, JSON.stringify(settings, null, 2), { mode: 0o600 });
  const reader = join(to, 'cards');
  return { cluster, settings, settingsFile, reader, startPanel: (wished) => startPanel(reader, wished, join(to, 'off-site')) };
}

/** What others did on the shared drive: an old drive was put there, a folder renamed, a picture deleted, one copied elsewhere. */
function othersHands(drive, reader) {
  renameSync(join(reader, 'cupboard'), join(drive, 'Cupboard 2019-2024'));
  const months = (folder) => (existsSync(folder) ? readdirSync(folder).sort() : []);
  const day = (month, slug) => months(join(drive, month)).find((name) => name.endsWith(slug));
  const picture = (folder) =>
    readdirSync(folder)
      .sort()
      .find((name) => name.endsWith('.jpg'));
  const renamed = day('2026/2026-03', 'creek-clean-up');
  if (renamed) renameSync(join(drive, '2026/2026-03', renamed), join(drive, '2026/2026-03/creek clean-up SORTED'));
  const robbed = day('2026/2026-03', 'marsh-diary');
  if (robbed) {
    const folder = join(drive, '2026/2026-03', robbed);
    rmSync(join(folder, picture(folder)));
    cpSync(join(folder, picture(folder)), join(drive, 'Cupboard 2019-2024/untitled 3/best of the marsh.jpg'), {
      preserveTimestamps: true,
    });
  }
}

/** What a disk does to what was written: a list is cut short, a record is gone. A check of the second copy finds both. */
function decay(place) {
  const month = join(place, '2026/2026-02');
  const day = (existsSync(month) ? readdirSync(month).sort() : []).find((name) => name.endsWith('marsh-diary'));
  if (!day) return;
  const names = readdirSync(join(month, day));
  truncateSync(
    join(
      month,
      day,
      names.find((name) => name === 'checksums.xxh128'),
    ),
    100,
  );
  rmSync(
    join(
      month,
      day,
      names.find((name) => name.startsWith('intake-')),
    ),
  );
}

function moveCard(reader, volume) {
  const { box, inside } = { box: join(reader, 'box', volume), inside: join(reader, 'reader', volume) };
  if (readdirSync(join(reader, 'box')).includes(volume)) renameSync(box, inside);
}

async function startPanel(reader, wished, offSite) {
  const port = wished || (await freePort());
  const child = start(process.execPath, [join(ROOT, 'standins/dist/reader/panel.js'), reader, String(port), offSite]);
  await answers(child, `http://127.0.0.1:${port}/cards`);
  return { child, port };
}
