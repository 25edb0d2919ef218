// Filing with credit inside the files against filing without, and a change of credit in three places against `cp` and `sync`.
import { randomFillSync } from 'node:crypto';
import { appendFileSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { startCluster } from '../tools/parts/cluster.mjs';
import { drawnOnce } from '../tools/parts/demo-house.mjs';
import { ROOT } from '../tools/parts/ready.mjs';
import { COLD, race, sh, some } from './measure.mjs';

const FILES = 200;
const BYTES = 10_000_000;
const never = new AbortController().signal;

export async function written(scratch) {
  const root = join(scratch, 'written');
  const card = join(root, 'card');
  makeNoisyCard(card);
  const cluster = await startCluster(join(root, 'db'));
  let round = 0;
  let filed = null;
  const open = async (places, writing) => {
    round++;
    cluster.ensureDatabase(`bench${round}`);
    return openHouse(cluster.adminUrl(`bench${round}`), join(root, `house-${round}`), places, writing, card);
  };
  const filing = await race(
    { inside: () => filed.carryOut(), without: () => filed.carryOut() },
    {
      prepare: async (name) => {
        await filed?.close();
        filed = await open(['shared', 'second'], { photo: name === 'inside' ? 'inside' : 'record only' });
      },
    },
  );
  await filed.close();
  filed = await open(['shared', 'second', 'third'], { photo: 'inside' });
  await filed.carryOut();
  await filed.write();
  let name = 0;
  const change = await race(
    {
      change: () => filed.write(),
      cp: () => sh('for to in "$2" "$3" "$4"; do mkdir -p "$to"; cp -r "$1/." "$to"; done; sync', card, ...plain()),
    },
    {
      prepare: async (which) => {
        for (const folder of plain()) rmSync(folder, { recursive: true, force: true });
        if (which === 'change') await filed.rename(`Ines Barrow ${++name}`);
      },
    },
  );
  await filed.close();
  await cluster.stop?.();
  const shape = `${FILES} × ${BYTES / 1e6} MB, ${COLD}`;
  return [
    {
      ...{ what: `filing with credit inside ÷ without, ${shape}`, ratio: filing.inside / filing.without, target: 1.05 },
      seconds: `${filing.inside.toFixed(2)} s, ${filing.without.toFixed(2)} s`,
    },
    {
      ...{ what: `change of credit in three places ÷ cp to three places and sync, ${shape}`, target: 1.2 },
      ratio: change.change / change.cp,
      seconds: `${change.change.toFixed(2)} s, ${change.cp.toFixed(2)} s`,
    },
  ];

  function plain() {
    return ['a', 'b', 'c'].map((place) => join(root, `plain-${place}`));
  }
}

/** Real pictures as large as a camera's: a drawn JPEG with its EXIF, and noise behind it up to the size. */
export function makeNoisyCard(card, files = some(FILES, 2)) {
  const folder = join(card, 'DCIM/100HALDN');
  mkdirSync(folder, { recursive: true });
  const box = join(drawnOnce(), 'box/HALDEN_M4/DCIM/100HALDN');
  const picture = readFileSync(join(box, readdirSync(box)[0]));
  const chunk = Buffer.alloc(BYTES);
  for (let i = 0; i < files; i++) {
    randomFillSync(chunk);
    picture.copy(chunk);
    appendFileSync(join(folder, `HM4_${String(i + 1).padStart(4, '0')}.JPG`), chunk);
  }
}

/** A house of its own, with the card read and ready to be filed. */
export async function openHouse(databaseUrl, folder, places, writing, card) {
  for (const id of places) mkdirSync(join(folder, id), { recursive: true });
  const dist = (path) => import(join(ROOT, 'server/dist', path));
  const [{ compose }, { Settings }] = await Promise.all([dist('composition.js'), dist('settings.js')]);
  const [{ makeContributor, makeAssignment, changeHouseCredit, changeContributor }, { receiveCard, readIntake }] =
    await Promise.all([dist('people/index.js'), dist('arriving/index.js')]);
  const [{ changeSlip }, { planOf, beginFiling, carryOut }, { writeManifests }] = await Promise.all([
    dist('slip/index.js'),
    dist('filing/index.js'),
    dist('proving/index.js'),
  ]);
  const settings = Settings.parse({
    ...{
      databaseUrl,
      backup: 'by hand',
      dataDir: join(folder, 'data'),
      zone: 'UTC',
      station: 'bench',
      log: 'error',
      previews: { build: 'when looked at' },
    },
    systemDisk: 'knowingly',
    places: places.map((id, i) => ({
      id,
      name: id,
      kind: i ? 'second copy' : 'shared drive',
      root: join(folder, id),
      device: id,
    })),
  });
  const composition = await compose(settings);
  const { house } = composition;
  const contributorId = await makeContributor(house, { name: 'Ines Barrow', code: 'IB' }, 'bench');
  const assignment = {
    title: 'Bench',
    slug: 'bench',
    code: '',
    from: '2026-04-18',
    to: '2026-04-18',
    place: '',
    expectedCards: 0,
  };
  const assignmentId = await makeAssignment(house, { ...assignment, expectedContributorIds: [] }, 'bench');
  await changeHouseCredit(house, { writing }, 'bench');
  const id = await receiveCard(house, card, 'bench');
  await readIntake(house, id, never);
  await changeSlip(house, id, { contributorId, assignmentId }, 'bench');
  const { view } = await planOf(house, id);
  const { outcome } = await beginFiling(house, id, view.seal, 'bench');
  if (outcome !== 'begun') throw new Error('the plan changed');
  return {
    house,
    carryOut: () => carryOut(house, id, never),
    write: () => writeManifests(house, never),
    rename: (name) => changeContributor(house, contributorId, { name }, 'bench'),
    close: async () => {
      await composition.close();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
