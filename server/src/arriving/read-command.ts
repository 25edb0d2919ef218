import { isoCaptureTime } from '@tally/core/capture';
import { formatBytes } from '@tally/core/logbook';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pLimit from 'p-limit';
import { listItems } from './listing.js';
import { codeOf, joinBytes } from '../drive/list-card.js';
import type { Metadata, MetadataReader } from '../media/metadata.js';
import { CardReader } from '../media/reader.js';
import { ThoroughReader } from '../media/thorough.js';
import type { ListedItem } from '../seeing/store/items.js';
import { EXIT, jsonLine, table, WrongUse } from '../cli/output.js';

export type ReadLine = ListedItem & Partial<Metadata> & { readonly quickHash: Buffer | null };

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

/** `tally read FOLDER`: what is on a card. Needs no database. */
export async function readCommand(folder: string, options: { json?: boolean }, zone: string): Promise<number> {
  let attention = false;
  const rows: (string | number | null)[][] = [];
  for await (const item of readAlone(folder, zone)) {
    attention ||= item.setAside === null && (item.problem !== null || Boolean(item.remark));
    if (options.json) jsonLine(readLine(item));
    else rows.push(readRow(item));
  }
  if (!options.json) table(['path', 'kind', 'size', 'captured', 'by', 'camera', 'note'], rows);
  return attention ? EXIT.attention : EXIT.done;
}

function readLine(item: ReadLine) {
  return {
    path: item.path,
    kind: item.kind,
    bytes: item.bytes,
    capturedAt: isoCaptureTime(item.captured),
    captureSource: item.captured.source,
    make: item.make ?? null,
    model: item.model ?? null,
    serial: item.serial ?? null,
    width: item.width ?? null,
    height: item.height ?? null,
    durationMs: item.durationMs ?? null,
    companionOf: item.leader === item.path ? null : item.leader,
    setAside: item.setAside,
    problem: item.problem,
    remark: item.remark ?? null,
  };
}

function readRow(item: ReadLine): (string | number | null)[] {
  const camera = [item.make, item.model].filter(Boolean).join(' ');
  const companion = item.leader === item.path ? null : `with ${item.leader.slice(item.leader.lastIndexOf('/') + 1)}`;
  const note = item.setAside ? `set aside: ${item.setAside}` : [item.problem, item.remark, companion].filter(Boolean).join('; ');
  return [item.path, item.kind, formatBytes(item.bytes), isoCaptureTime(item.captured), item.captured.source, camera, note];
}
