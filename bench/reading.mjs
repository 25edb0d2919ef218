// Reading the capture data of 1,000 JPEGs against exiftool.
import { cpSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { drawnOnce } from '../tools/parts/demo-house.mjs';
import { ROOT } from '../tools/parts/ready.mjs';
import { COLD, race, sh, some } from './measure.mjs';

const FILES = 1000;
const FOLDERS = 500;

export async function reading(scratch) {
  const count = some(FILES);
  const folder = join(scratch, 'jpegs');
  mkdirSync(folder, { recursive: true });
  const box = join(drawnOnce(), 'box/HALDEN_M4/DCIM/100HALDN');
  const samples = readdirSync(box).map((name) => join(box, name));
  for (let i = 0; i < count; i++)
    cpSync(samples[i % samples.length], join(folder, `IMG_${String(i).padStart(4, '0')}.JPG`), { preserveTimestamps: true });
  const { readFolder } = await import(join(ROOT, 'server/dist/arriving/read-folder.js'));
  const { CardReader } = await import(join(ROOT, 'server/dist/media/reader.js'));
  const { ThoroughReader } = await import(join(ROOT, 'server/dist/media/thorough.js'));
  const { listCard } = await import(join(ROOT, 'server/dist/drive/list-card.js'));
  const reader = new CardReader(new ThoroughReader(join(scratch, 'run')), 'UTC');
  const tags = [
    'DateTimeOriginal',
    'SubSecTimeOriginal',
    'OffsetTimeOriginal',
    'CreateDate',
    'Make',
    'Model',
    'SerialNumber',
    'ImageWidth',
    'ImageHeight',
    'Orientation',
  ];
  const ours = async () => {
    let dated = 0;
    for await (const item of readFolder(folder, reader, 'UTC')) if (item.captured.source.startsWith('metadata')) dated++;
    if (dated !== count) throw new Error(`${dated} of ${count} were read`);
  };
  const times = await race({
    ours,
    exiftool: () => sh(`exiftool -q -json -fast2 -n ${tags.map((tag) => `-${tag}`).join(' ')} "$1" > /dev/null`, folder),
  });
  const listing = await race(
    // Ten times each: a thousand files take less time than a shell takes to begin.
    {
      ours: async () => {
        for (let i = 0; i < 10; i++) await listCard(folder);
      },
      find: () => sh('for i in 1 2 3 4 5 6 7 8 9 10; do find "$1" -type f -printf "%P %s %T@\\n" > /dev/null; done', folder),
    },
    { rounds: 9, cold: false },
  );
  // A tree of 50,000 files in 500 folders.
  const tree = join(scratch, 'tree');
  for (let folder = 0; folder < some(FOLDERS); folder++) {
    const at = join(tree, `C${String(folder).padStart(4, '0')}.RDC`);
    mkdirSync(at, { recursive: true });
    for (let file = 0; file < 100; file++) writeFileSync(join(at, `F${file}.BIN`), '');
  }
  const deep = await race(
    { ours: () => listCard(tree), find: () => sh('find "$1" -type f -printf "%P %s %T@\\n" > /dev/null', tree) },
    { rounds: 5, cold: false },
  );
  await reader.close();
  return [
    {
      what: `capture data of ${FILES} JPEGs (with fast identity): exiftool -fast2 ÷ ours, at least`,
      ratio: times.exiftool / times.ours,
      target: 10,
      atLeast: true,
      seconds: `${times.exiftool.toFixed(2)} / ${times.ours.toFixed(2)} s ${COLD}`,
    },
    {
      what: `list of a tree of ${FOLDERS * 100} files ÷ find -printf`,
      ratio: deep.ours / deep.find,
      target: 2,
      seconds: `${(deep.ours * 1000).toFixed(0)} / ${(deep.find * 1000).toFixed(0)} ms`,
    },
    {
      what: `list of ${FILES} files ÷ find -printf`,
      ratio: listing.ours / listing.find,
      target: 2,
      seconds: `${(listing.ours * 100).toFixed(0)} / ${(listing.find * 100).toFixed(0)} ms`,
    },
  ];
}
