import type { Command } from 'commander';
import { resolve } from 'node:path';
import type { Frame } from '../cli/frame.js';
import { tallyCommand } from './tally-command.js';
import type { House } from '../house/index.js';

/** Printing is loaded by those who print: it would slow down every other start. */
const paper = () => import('./receipt-command.js');

/** Comparing a drive with its lists, and receipts. */
export function addProvingCommands(program: Command, frame: Frame<House>): void {
  program
    .command('tally')
    .description('compare filed files with the checksum and hash lists beside them; needs no database')
    .argument('<folder>')
    .option('--json', 'one JSON object a line')
    .action((folder: string, options: { json?: boolean }) => frame.alone(() => tallyCommand(resolve(folder), options)));

  program
    .command('receipt')
    .description('the printable proof of an intake, as PDF')
    .argument('<number>', 'number of the intake')
    .option('--out <file>', 'where to write it; else receipt-NUMBER.pdf')
    .option('--paper <size>', 'A4 or LETTER', 'A4')
    .action((number: string, options: { out?: string; paper: string }) =>
      frame.withHouse(async (house) => (await paper()).receiptCommand(house, number, options)),
    );
}
