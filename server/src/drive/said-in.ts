import { open } from 'node:fs/promises';
import { blocksInJpeg, propertiesInSidecar, type Properties, sidecarOf } from '@tally/core/fields';
import { readSidecar } from './sidecar-file.js';

const HEAD_BYTES = 4 << 20;

/** What stands in a file and beside it, each with where it stands: XMP, IIM, Exif, sidecar. */
export interface SaidIn {
  readonly said: readonly (readonly [where: string, Properties])[];
  /** What could not be read, in words. */
  readonly faults: readonly string[];
}

/** Reads what a file and its sidecar say of themselves. @throws the system's error when the file is not there. */
export async function saidIn(path: string | Buffer): Promise<SaidIn> {
  const said: [string, Properties][] = [];
  const faults: string[] = [];
  const head = await headOf(path);
  if (head[0] === 0xff && head[1] === 0xd8) {
    const blocks = blocksInJpeg(head);
    if (typeof blocks === 'string') faults.push(`In the file: ${blocks}`);
    else said.push(...blocks.map(([block, properties]): [string, Properties] => [block, properties]));
  }
  const sidecar = typeof path === 'string' ? await readSidecar(sidecarOf(path)) : null;
  const beside = sidecar === null || typeof sidecar === 'string' ? sidecar : propertiesInSidecar(sidecar);
  if (typeof beside === 'string') faults.push(`Beside it: ${beside}`);
  else if (beside) said.push(['sidecar', beside]);
  return { said, faults };
}

/** The first 4 MiB of a file, or all of it. */
export async function headOf(path: string | Buffer): Promise<Buffer> {
  const handle = await open(path, 'r');
  try {
    const { size } = await handle.stat();
    const head = Buffer.alloc(Math.min(HEAD_BYTES, size));
    const { bytesRead } = await handle.read(head, 0, head.length, 0);
    return head.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}
