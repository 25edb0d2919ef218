import type { Command } from 'commander';
import type { Frame } from '../cli/frame.js';
import { linkCommand, personCommand } from './person-commands.js';
import type { House } from '../house/index.js';

/** Links by which somebody may hand in, and people who sign in. */
export function addPeopleCommands(program: Command, frame: Frame<House>): void {
  program
    .command('link')
    .description('make a link by which somebody may hand in, and nothing else')
    .option('--hours <hours>', 'how long it is good', '24')
    .action((options: { hours: string }) => frame.withHouse((house) => linkCommand(house, options)));

  program
    .command('person')
    .description('add somebody who may sign in; the password is read from TALLY_PASSWORD')
    .argument('<name>')
    .requiredOption('--role <role>', 'administrator, coordinator or hand-in')
    .action((name: string, options: { role: string }) => frame.withHouse((house) => personCommand(house, name, options)));
}
