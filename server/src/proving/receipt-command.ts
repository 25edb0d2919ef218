import { WrongUse } from '../cli/output.js';
import { ReceiptQuery } from '@tally/contract';
import { resolve } from 'node:path';
import { receiptOf } from './receipt.js';
import { write } from '../cli/write-file.js';
import { type House, intakeNumbered } from '../house/index.js';

/** `tally receipt NUMBER [--out FILE] [--paper A4|LETTER]`. A file that stands there already is not replaced. */
export async function receiptCommand(house: House, number: string, options: { out?: string; paper: string }): Promise<number> {
  const query = ReceiptQuery.safeParse({ paper: options.paper.toUpperCase() });
  if (!query.success) throw new WrongUse(`--paper is A4 or LETTER, not ${options.paper}.`);
  const id = await intakeNumbered(house, number);
  const base = house.settings.publicUrl?.replace(/\/$/, '') ?? `http://${house.settings.host}:${house.settings.port}`;
  const pdf = await receiptOf(house, id, query.data.paper, base, 'command line');
  return write(resolve(options.out ?? `receipt-${number}.pdf`), pdf);
}
