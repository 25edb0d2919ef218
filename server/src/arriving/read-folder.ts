import pLimit from 'p-limit';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { listItems } from './listing.js';
import { codeOf, joinBytes } from '../drive/list-card.js';
import type { MetadataReader } from '../media/metadata.js';
import { CardReader } from '../media/reader.js';
import { ThoroughReader } from '../media/thorough.js';
import { WrongUse } from '../cli/output.js';
import type { ReadLine } from '../slip/index.js';

/** Lists and reads a folder, in the order of the listing. @throws WrongUse when it cannot be listed. */
export async function* readFolder(folder: string, reader: MetadataReader, zone: string): AsyncGenerator<ReadLine> {
  const items = await listItems(folder, zone).catch((error: unknown) => {
    throw new WrongUse(`${folder} cannot be listed (${codeOf(error)}).`);
  });
  const limit = pLimit(8);
  const reading = items.map((item) =>
    limit(async (): Promise<ReadLine> => {
      if (item.setAside !== null || item.problem !== null) return { ...item, quickHash: null };
      const read = await reader.read({
        path: joinBytes(folder, item.pathBytes),
        kind: item.kind,
        bytes: item.bytes,
        modifiedAt: item.modifiedAt,
      });
      return { ...item, ...read };
    }),
  );
  for (const item of reading) yield await item;
}

/** The same with a reader of its own: needs no house and no database. */
export async function* readAlone(folder: string, zone: string): AsyncGenerator<ReadLine> {
  const runDir = await mkdtemp(join(tmpdir(), 'tally-run-'));
  const reader = new CardReader(new ThoroughReader(runDir), zone);
  try {
    yield* readFolder(folder, reader, zone);
  } finally {
    await reader.close();
    await rm(runDir, { recursive: true, force: true });
  }
}
