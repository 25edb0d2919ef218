// May a card of 1,000 files be cleared? By fast identity, and with every byte read, against `cat`.
import { randomFillSync } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { startCluster } from '../tools/parts/cluster.mjs';
import { ROOT } from '../tools/parts/ready.mjs';
import { COLD, race, sh, some } from './measure.mjs';

const FILES = 1000;
const BYTES = 2_000_000;

export async function clearance(scratch) {
  const count = some(FILES);
  const root = join(scratch, 'clearance');
  const card = join(root, 'card');
  mkdirSync(join(card, 'A'), { recursive: true });
  const chunk = Buffer.alloc(BYTES);
  for (let i = 0; i < count; i++) writeFileSync(join(card, `A/P${1000 + i}.JPG`), randomFillSync(chunk));
  const cluster = await startCluster(join(root, 'db'));
  cluster.ensureDatabase('bench');
  const dist = (path) => import(join(ROOT, 'server/dist', path));
  const [{ compose }, { Settings }, { fileFolder }] = await Promise.all([
    dist('composition.js'),
    dist('settings.js'),
    dist('arriving/file-command.js'),
  ]);
  const [{ clearanceNow }, { makeContributor, makeAssignment }] = await Promise.all([
    dist('clearing/clearance.js'),
    dist('people/joining.js'),
  ]);
  for (const id of ['shared', 'second']) mkdirSync(join(root, id), { recursive: true });
  const place = (id, kind) => ({ id, name: id, kind, root: join(root, id), device: id });
  const settings = Settings.parse({
    ...{
      databaseUrl: cluster.adminUrl('bench'),
      dataDir: join(root, 'data'),
      zone: 'UTC',
      station: 'bench',
      log: 'error',
      backup: 'by hand',
    },
    systemDisk: 'knowingly',
    places: [place('shared', 'shared drive'), place('second', 'second copy')],
  });
  const composition = await compose(settings);
  const { house } = composition;
  await makeContributor(house, { name: 'Ines Barrow', code: 'IB' }, 'bench');
  const assignment = {
    title: 'Bench',
    slug: 'bench',
    code: '',
    from: '2026-04-18',
    to: '2026-04-18',
    place: '',
    expectedCards: 1,
  };
  await makeAssignment(house, { ...assignment, expectedContributorIds: [] }, 'bench');
  const never = new AbortController().signal;
  const id = await fileFolder(house, card, { contributor: 'IB', assignment: 'bench' }, 'bench', never);
  const look = async (full) => {
    const { safe, files } = await clearanceNow(house, id, full, null, card);
    if (!safe || files !== count) throw new Error('the card should be safe to clear');
  };
  const times = await race({
    fast: () => look(false),
    full: () => look(true),
    cat: () => sh('find "$1" -type f -print0 | xargs -0 cat > /dev/null', card),
  });
  await composition.close();
  cluster.stop();
  return [
    {
      what: `clearance of ${FILES} files by fast identity, copies looked for at both places: seconds`,
      ...{ ratio: times.fast, target: 2, seconds: COLD },
    },
    {
      what: `clearance of ${FILES} × ${BYTES / 1e6} MB with every byte read ÷ cat of the card`,
      ...{ ratio: times.full / times.cat, target: 1.2, seconds: `${times.full.toFixed(1)} / ${times.cat.toFixed(1)} s ${COLD}` },
    },
  ];
}
