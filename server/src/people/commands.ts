import type { Command } from 'commander';
import type { Frame } from '../cli/frame.js';
import { collect } from '../cli/said.js';
import { ASSIGNMENT_SETS, assignmentCommand, CONTRIBUTOR_SETS, contributorCommand } from './correct-commands.js';
import { forgetCommand } from './forget-command.js';
import { addListCommands } from './lists/commands.js';
import type { House } from '../house/index.js';

/** Contributors, assignments, and the lists of the house. */
export function addPeopleCommands(program: Command, frame: Frame<House>): void {
  program
    .command('contributor')
    .description('correct a contributor, retire them or put them back')
    .argument('<code>')
    .option('--name <name>', 'what they are called')
    .option('--code <code>', 'another code, as long as it stands in no name')
    .option('--set <field=value>', `${CONTRIBUTOR_SETS.join(', ')}; as often as needed`, collect, [])
    .option('--retire', 'not offered any more; what was filed stays theirs')
    .option('--back', 'offered again')
    .action((code: string, options: Parameters<typeof contributorCommand>[2]) =>
      frame.withHouse((house) => contributorCommand(house, code, options)),
    );

  program
    .command('forget')
    .description('a contributor wishes to be forgotten: contacts, agreements and habits are erased, a number stands for the name')
    .argument('<code>')
    .option('--sure', 'without it nothing is done')
    .action((code: string, options: { sure?: boolean }) => frame.withHouse((house) => forgetCommand(house, code, options)));

  program
    .command('assignment')
    .description('correct an assignment, retire it or put it back')
    .argument('<slug>', 'its short name')
    .option('--title <title>', 'what it is called')
    .option('--slug <slug>', 'another short name, as long as it stands in no name')
    .option('--from <day>', 'first day, yyyy-MM-dd')
    .option('--to <day>', 'last day, yyyy-MM-dd')
    .option('--place <place>', 'where it was')
    .option('--cards <cards>', 'how many cards are expected')
    .option('--set <field=value>', `${ASSIGNMENT_SETS.join(', ')}; as often as needed`, collect, [])
    .option('--retire', 'not offered and not expected any more')
    .option('--back', 'offered again')
    .action((slug: string, options: Parameters<typeof assignmentCommand>[2]) =>
      frame.withHouse((house) => assignmentCommand(house, slug, options)),
    );

  addListCommands(program, frame);
}
