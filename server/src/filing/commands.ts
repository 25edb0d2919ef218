import type { Command } from 'commander';
import type { Frame } from '../cli/frame.js';
import { houseCommandOf } from '../cli/house-command.js';
import { asideCommand } from './aside-command.js';
import { haltCommand } from './halt-command.js';
import { recountCommand } from './recount-command.js';
import type { House } from '../house/index.js';

/** Letting a filing pause, go on or stop; and go on without what cannot be filed. */
export function addFilingCommands(program: Command, frame: Frame<House>): void {
  for (const [name, wish, says] of [
    ['pause', 'pause', 'let a filing pause'],
    ['go-on', 'go on', 'let a paused filing go on'],
    ['stop', 'stop', 'end a filing: what is whole stays, the rest is not filed'],
  ] as const) {
    program
      .command(name)
      .description(says)
      .argument('<number>', 'number of the intake')
      .action((number: string) => frame.withHouse((house) => haltCommand(house, number, wish)));
  }
  program
    .command('aside')
    .description('set items aside with a reason: the intake goes on without them')
    .argument('<number>', 'number of the intake')
    .argument('<patterns...>', 'paths on the card, such as DCIM/** or *.MP4')
    .requiredOption('--reason <reason>', 'unreadable, gone, "not ours"; or none, to take them again')
    .action((number: string, patterns: string[], options: { reason: string }) =>
      frame.withHouse((house) => asideCommand(house, number, patterns, options.reason)),
    );
  houseCommandOf(program)
    .command('recount')
    .description('count all kept totals anew, say what differed, and mend it')
    .option('--json', 'one JSON object for each difference')
    // `house` takes --json too, and takes it first.
    .action((_own: object, command: Command) =>
      frame.withHouse((house) => recountCommand(house, command.optsWithGlobals<{ json?: boolean }>())),
    );
}
