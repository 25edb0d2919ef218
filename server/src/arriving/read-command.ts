import { cameraName, partsInWords } from '@tally/core/card';
import { profileOf } from '@tally/core/footage';
import { EXIT, jsonLine, table } from '../cli/output.js';
import { isoCaptureTime } from '@tally/core/capture';
import { formatBytes } from '@tally/core/logbook';
import { readAlone } from './read-folder.js';
import type { ReadLine } from '../slip/index.js';

/** `tally read FOLDER`: what is on a card, a line a file, or with `--objects` a line an object. Needs no database. */
export async function readCommand(folder: string, options: { json?: boolean; objects?: boolean }, zone: string): Promise<number> {
  let attention = false;
  const rows: (string | number | null)[][] = [];
  const objects = new Map<string, ReadLine[]>();
  for await (const item of readAlone(folder, zone)) {
    attention ||= item.setAside === null && (item.problem !== null || Boolean(item.remark));
    if (options.objects) objects.set(item.leader, [...(objects.get(item.leader) ?? []), item]);
    else if (options.json) jsonLine(readLine(item));
    else rows.push(readRow(item));
  }
  for (const [leader, items] of objects) {
    const lead = items.find(({ path }) => path === leader) ?? items[0]!;
    if (options.json) jsonLine(objectLine(lead, items));
    else rows.push(objectRow(lead, items));
  }
  if (!options.json) table(options.objects ? ['object', 'kind', 'structure', 'size', 'captured', 'parts'] : READ_COLUMNS, rows);
  return attention ? EXIT.attention : EXIT.done;
}

const READ_COLUMNS = ['path', 'kind', 'size', 'captured', 'by', 'camera', 'note'];
const sizeOf = (items: readonly ReadLine[]) => items.reduce((sum, { bytes }) => sum + bytes, 0);

function objectLine(lead: ReadLine, items: readonly ReadLine[]) {
  return {
    ...{ object: lead.path, kind: lead.kind, structure: lead.structure, root: lead.structureRoot, bytes: sizeOf(items) },
    ...{
      capturedAt: isoCaptureTime(lead.captured),
      timecode: lead.clip?.timecode ?? null,
      profile: profileOf(null, lead.clip ?? null),
    },
    files: items.map(({ path, objectRole, part, parts, setAside }) => ({ path, role: objectRole, part, parts, setAside })),
  };
}

function objectRow(lead: ReadLine, items: readonly ReadLine[]): (string | number | null)[] {
  const size = formatBytes(sizeOf(items));
  return [lead.path, lead.kind, lead.structure, size, isoCaptureTime(lead.captured), partsInWords(items)];
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
    ...{ object: item.leader, role: item.objectRole, part: item.part, parts: item.parts },
    ...{ structure: item.structure, root: item.structureRoot },
    ...{ profile: profileOf(null, item.clip ?? null), timecode: item.clip?.timecode ?? null },
    setAside: item.setAside,
    problem: item.problem,
    remark: item.remark ?? null,
  };
}

function readRow(item: ReadLine): (string | number | null)[] {
  const camera = cameraName({ make: item.make ?? null, model: item.model ?? null });
  const companion = item.leader === item.path ? null : `with ${item.leader.slice(item.leader.lastIndexOf('/') + 1)}`;
  const note = item.setAside ? `set aside: ${item.setAside}` : [item.problem, item.remark, companion].filter(Boolean).join('; ');
  return [item.path, item.kind, formatBytes(item.bytes), isoCaptureTime(item.captured), item.captured.source, camera, note];
}
