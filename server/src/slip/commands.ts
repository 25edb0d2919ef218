import type { Command } from 'commander';
import type { Frame } from '../cli/frame.js';
import { collect } from '../cli/said.js';
import { EXIT, say, WHO } from '../cli/output.js';
import type { House } from '../house/index.js';
import { correctInList } from '../people/index.js';
import { ANSWERS, habitCalled, habitCommand, habitList } from './habit-commands.js';

/** `tally habit` */
export function addSlipCommands(program: Command, frame: Frame<House>): void {
  const habit = program.command('habit').description('answers that slips give by themselves');
  habit
    .command('list')
    .option('--json', 'one JSON object a line')
    .action((options: { json?: boolean }) => frame.withHouse((house) => habitList(house, options)));
  for (const does of ['add', 'change'] as const)
    habit
      .command(does)
      .argument('<name>')
      .option('--belongs <to>', 'house, contributor:CODE, assignment:SLUG, card:LABEL or reader:NAME')
      .option(
        '--answer <field=value>',
        `${Object.keys(ANSWERS).join(', ')}; an empty value takes it out; repeatable`,
        collect,
        [],
      )
      .action((name: string, options: { belongs?: string; answer: string[] }) =>
        frame.withHouse((house) => habitCommand(house, does, name, options)),
      );
  for (const does of ['retire', 'back'] as const)
    habit
      .command(does)
      .argument('<name>')
      .action((name: string) =>
        frame.withHouse(async (house) => {
          const { id } = await habitCalled(house, name);
          await correctInList(house, 'habits', id, { retired: does === 'retire' }, WHO);
          say(`${name} ${does === 'retire' ? 'is retired' : 'is back'}.`);
          return EXIT.done;
        }),
      );
}
