import { cameraName } from '@tally/core/card';
import { EXIT, jsonLine, table } from '../cli/output.js';
import { isoCaptureTime } from '@tally/core/capture';
import { formatBytes } from '@tally/core/logbook';
import { readAlone } from './read-folder.js';
import type { ReadLine } from '../slip/index.js';

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
  const camera = cameraName({ make: item.make ?? null, model: item.model ?? null });
  const companion = item.leader === item.path ? null : `with ${item.leader.slice(item.leader.lastIndexOf('/') + 1)}`;
  const note = item.setAside ? `set aside: ${item.setAside}` : [item.problem, item.remark, companion].filter(Boolean).join('; ');
  return [item.path, item.kind, formatBytes(item.bytes), isoCaptureTime(item.captured), item.captured.source, camera, note];
}
