import type { Command } from 'commander';
import type { Frame } from '../cli/frame.js';
import { fillCommand, placesCommand } from './place-commands.js';
import type { House } from '../house/index.js';

/** Places, and the copies they wait for. */
export function addKeepingCommands(program: Command, frame: Frame<House>): void {
  program
    .command('places')
    .description('how every place stands, what it holds and what it waits for')
    .option('--json', 'one JSON object a line')
    .action((options: { json?: boolean }) => frame.withHouse((house) => placesCommand(house, options)));

  program
    .command('fill')
    .description('make the copies that places wait for, from copies that tally; no card is needed')
    .argument('[places...]', 'ids of places; else every place that waits')
    .option('--json', 'one JSON object a line')
    .action((places: string[], options: { json?: boolean }) =>
      frame.withHouse((house) => fillCommand(house, places, options, frame.signal)),
    );
}
