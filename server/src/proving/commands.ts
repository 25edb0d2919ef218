import type { Command } from 'commander';
import { resolve } from 'node:path';
import type { Frame } from '../cli/frame.js';
import { EXIT } from '../cli/output.js';
import { collect } from '../cli/said.js';
import { creditCommand, CREDIT_SETS } from '../slip/index.js';
import { originalCommand } from './original-command.js';
import { showCommand } from './show-command.js';
import { tallyCommand } from './tally-command.js';
import { writeCommand } from './write-command.js';
import type { House } from '../house/index.js';

/** Printing is loaded by those who print: it would slow down every other start. */
const paper = () => import('./receipt-command.js');

/** Comparing a drive with its lists, credit in the files, and receipts. */
export function addProvingCommands(program: Command, frame: Frame<House>): void {
  program
    .command('tally')
    .description('compare filed files with the checksum and hash lists beside them; needs no database')
    .argument('<folder>')
    .option('--json', 'one JSON object a line')
    .action((folder: string, options: { json?: boolean }) => frame.alone(() => tallyCommand(resolve(folder), options)));

  program
    .command('original')
    .description('the bytes of the card, without the credit that was put into a filed file; needs no database')
    .argument('<path>', 'the filed file, with the record of its intake beside it')
    .requiredOption('--to <file>', 'where to write it; nothing is replaced')
    .action((path: string, options: { to: string }) => frame.alone(() => originalCommand(resolve(path), resolve(options.to))));

  program
    .command('credit')
    .description('show whose items are and what may be done with them, or change it; filed items too')
    .argument('<what...>', 'the number of an intake, with patterns of items if not all are meant; or paths of filed files')
    .option(
      '--set <field=value>',
      `${CREDIT_SETS.join(', ')}; words and pictured with + or - before each; ours and theirs name properties where the file says something else; repeatable`,
      collect,
      [],
    )
    .option('--write', 'bring the files and what stands beside them up to date now, at every place that is here')
    .option('--show', 'what stands in these files and beside them, and where each thing stands; needs no database')
    .option('--json', 'one JSON object an item')
    .action((what: string[], options: { set: string[]; write?: boolean; show?: boolean; json?: boolean }) =>
      options.show
        ? frame.alone(() =>
            showCommand(
              what.map((path) => resolve(path)),
              options,
            ),
          )
        : frame.withHouse(async (house) => {
            const shown = options.write && !options.set.length ? EXIT.done : await creditCommand(house, what, options);
            return options.write ? Math.max(shown, await writeCommand(house, what, frame.signal)) : shown;
          }),
    );

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
