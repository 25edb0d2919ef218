import { open, stat } from 'node:fs/promises';
import {
  blocksInJpeg,
  FIELDS,
  inWords,
  propertiesInSidecar,
  type Properties,
  says,
  sidecarOf,
  standardOf,
} from '@tally/core/fields';
import { EXIT, jsonLine, printable, say, table, WrongUse } from '../cli/output.js';
import { codeOf } from '../drive/list-card.js';
import { readSidecar } from '../drive/sidecar-file.js';

const HEAD_BYTES = 4 << 20;

/** What stands in a file and beside it, each with where it stands. */
export interface SaidIn {
  readonly said: readonly (readonly [where: string, Properties])[];
  /** What could not be read, in words. */
  readonly faults: readonly string[];
}

/** Reads what a file and its sidecar say of themselves. @throws the system's error when the file is not there. */
export async function saidIn(path: string): Promise<SaidIn> {
  const said: [string, Properties][] = [];
  const faults: string[] = [];
  const head = await headOf(path);
  if (head[0] === 0xff && head[1] === 0xd8) {
    const blocks = blocksInJpeg(head);
    if (typeof blocks === 'string') faults.push(`In the file: ${blocks}`);
    else said.push(...blocks.map(([block, properties]): [string, Properties] => [block, properties]));
  }
  const sidecar = await readSidecar(sidecarOf(path));
  const beside = sidecar === null || typeof sidecar === 'string' ? sidecar : propertiesInSidecar(sidecar);
  if (typeof beside === 'string') faults.push(`Beside it: ${beside}`);
  else if (beside) said.push(['sidecar', beside]);
  return { said, faults };
}

async function headOf(path: string): Promise<Buffer> {
  const handle = await open(path, 'r');
  try {
    const head = Buffer.alloc(HEAD_BYTES);
    const { bytesRead } = await handle.read(head, 0, HEAD_BYTES, 0);
    return head.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}

/** `tally credit --show PATH`: what stands in files and beside them, and where each thing stands. Needs no house. */
export async function showCommand(paths: readonly string[], options: { json?: boolean }): Promise<number> {
  let trouble = false;
  for (const path of paths) {
    const found = await stat(path).catch((error: unknown) => {
      throw new WrongUse(`${path} cannot be read (${codeOf(error)}).`);
    });
    if (!found.isFile()) throw new WrongUse(`${path} is no file.`);
    const { said, faults } = await saidIn(path);
    trouble ||= faults.length > 0;
    const rows = FIELDS.flatMap((field) =>
      said.flatMap(([where, properties]) =>
        says(properties, field) ? [{ property: standardOf(field).name, value: inWords(properties, field), where }] : [],
      ),
    );
    if (options.json) jsonLine({ path, said: Object.fromEntries(said), faults });
    else {
      if (paths.length > 1) say(`${printable(path)}:`);
      if (rows.length)
        table(
          ['property', 'value', 'stands in'],
          rows.map(({ property, value, where }) => [property, value, where]),
        );
      else say(`${printable(path)} and what stands beside it say nothing of themselves.`);
      for (const fault of faults) say(`${printable(fault)}.`);
    }
  }
  return trouble ? EXIT.attention : EXIT.done;
}
