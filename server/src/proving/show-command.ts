import { stat } from 'node:fs/promises';
import { FIELDS, inWords, says, standardOf } from '@tally/core/fields';
import { EXIT, jsonLine, printable, say, table, WrongUse } from '../cli/output.js';
import { codeOf } from '../drive/list-card.js';
import { saidIn } from '../drive/said-in.js';

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
