import type { Command } from 'commander';
import { resolve } from 'node:path';
import type { Frame } from '../cli/frame.js';
import { clearanceCommand, clearCommand, restoreCommand, type CardAt } from './clear-commands.js';
import { pullCommand } from './pull-command.js';
import type { House } from '../house/index.js';

const where = ['--card <folder>', 'where the card is now; else where it was read'] as const;

const resolved = <O extends CardAt>(options: O): O =>
  options.card === undefined ? options : { ...options, card: resolve(options.card) };

/** May a card be cleared? Clear it; put it back as it was. */
export function addClearingCommands(program: Command, frame: Frame<House>): void {
  program
    .command('clearance')
    .description('may the card of an intake be cleared, as it is now?')
    .argument('<number>', 'number of the intake')
    .option(...where)
    .option('--full', 'read every byte of the card, not only both ends of each file')
    .option('--only <patterns...>', 'these paths on the card alone, such as DCIM/** or *.MP4')
    .option('--json', 'one JSON object')
    .action((number: string, options: Parameters<typeof clearanceCommand>[2]) =>
      frame.withHouse((house) => clearanceCommand(house, number, resolved(options))),
    );

  program
    .command('clear')
    .description('clear the card of an intake, if it is safe')
    .argument('<number>', 'number of the intake')
    .option(...where)
    .option('--only <patterns...>', 'remove these paths on the card alone, under the same rule')
    .option('--let-go', 'remove also what was left and stands nowhere else')
    .option('--keep', 'remove what stands in all required places; everything else stays on the card')
    .option('--sure', 'sound and files of unknown kind too')
    .action((number: string, options: Parameters<typeof clearCommand>[2]) =>
      frame.withHouse((house) => clearCommand(house, number, resolved(options))),
    );

  program
    .command('pull')
    .description('let a card go: flush and unmount it, so that it may be pulled')
    .argument('<card>', 'its label, its name or its folder')
    .option('--anyway', 'also when something on it waits to be filed')
    .action((card: string, options: { anyway?: boolean }) => frame.withHouse((house) => pullCommand(house, card, options)));

  program
    .command('restore')
    .description('put the files of an intake back as they were on its card')
    .argument('<number>', 'number of the intake')
    .argument('<folder>', 'a card or another folder')
    .action((number: string, folder: string) => frame.withHouse((house) => restoreCommand(house, number, resolve(folder))));
}
