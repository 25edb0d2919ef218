import { LabelsQuery, ReceiptQuery } from '@tally/contract';
import { writeFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import type { Composition } from '../composition.js';
import { labelsFor } from '../counter/labels.js';
import { receiptOf } from './receipt.js';
import { codeOf } from '../drive/list-card.js';
import { intakeNumbered } from '../cli/intake.js';
import { EXIT, WrongUse } from '../cli/output.js';

/** `tally receipt NUMBER [--out FILE] [--paper A4|LETTER]`. A file that stands there already is not replaced. */
export async function receiptCommand(
  composition: Composition,
  number: string,
  options: { out?: string; paper: string },
): Promise<number> {
  const { house, previews } = composition;
  const query = ReceiptQuery.safeParse({ paper: options.paper.toUpperCase() });
  if (!query.success) throw new WrongUse(`--paper is A4 or LETTER, not ${options.paper}.`);
  const id = await intakeNumbered(composition, number);
  const base = house.settings.publicUrl?.replace(/\/$/, '') ?? `http://${house.settings.host}:${house.settings.port}`;
  const pdf = await receiptOf(house, previews, id, query.data.paper, base, 'command line');
  return write(resolve(options.out ?? `receipt-${number}.pdf`), pdf);
}

/** `tally labels [LABEL…] [--count N] [--form sheet|tape] [--skip N] [--out FILE]`: labels for cards, with a bar code each. */
export async function labelsCommand(
  { house }: Composition,
  labels: readonly string[],
  options: { count?: string; form: string; skip: string; out?: string },
): Promise<number> {
  const { out, ...rest } = options;
  const query = LabelsQuery.safeParse({ ...rest, ...(labels.length ? { labels: labels.join(',') } : {}) });
  if (!query.success)
    throw new WrongUse(query.error.issues.map(({ path, message }) => `${path.join('.')} ${message}`.trim()).join('\n'));
  return write(resolve(out ?? 'labels.pdf'), await labelsFor(house, query.data));
}

async function write(file: string, pdf: Buffer): Promise<number> {
  await writeFile(file, pdf, { flag: 'wx' }).catch((error: unknown) => {
    throw new WrongUse(
      codeOf(error) === 'EEXIST' ? `${file} stands there already.` : `${file} cannot be written (${codeOf(error)}).`,
    );
  });
  console.log(`${file} written.`);
  return EXIT.done;
}
