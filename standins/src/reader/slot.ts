import { mkdir, readdir, readFile, rename, stat } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';

/**
 * The slots of the stand-in reader, as the house's own commands ask for them: `look FOLDER` prints what is known of the card
 * there, `let-go FOLDER` takes it out of where cards appear while it stays in its slot.
 */
const [act, folder] = process.argv.slice(2);
if (!folder || (act !== 'look' && act !== 'let-go')) throw new Error('usage: slot look|let-go FOLDER');
const [reader, volume] = [dirname(folder), basename(folder)];
const GIGABYTE = 1_000_000_000;

async function bytesIn(at: string): Promise<number> {
  const entries = await readdir(at, { recursive: true, withFileTypes: true });
  const sizes = entries.filter((entry) => entry.isFile()).map((entry) => stat(join(entry.parentPath, entry.name)));
  return (await Promise.all(sizes)).reduce((sum, { size }) => sum + size, 0);
}

if (act === 'look') {
  const inside = (await readdir(reader)).filter((name) => !name.startsWith('.')).sort();
  const cards = JSON.parse(await readFile(join(reader, '..', 'cards.json'), 'utf8')) as { volume: string; gigabytes?: number }[];
  const gigabytes = cards.find((card) => card.volume === volume)?.gigabytes ?? 32;
  const facts = {
    ...{ reader: 'Brackwater 4', slot: `slot ${inside.indexOf(volume) + 1}`, volume, fileSystem: 'exfat' },
    ...{ capacityBytes: gigabytes * GIGABYTE, usedBytes: await bytesIn(folder) },
  };
  process.stdout.write(JSON.stringify(facts));
} else {
  const slots = join(reader, '..', 'let-go');
  await mkdir(slots, { recursive: true });
  await rename(folder, join(slots, volume));
}
