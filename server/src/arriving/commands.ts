import type { Command } from 'commander';
import { resolve } from 'node:path';
import type { Frame } from '../cli/frame.js';
import { fileCommand } from './file-command.js';
import { lookCommand } from './look-command.js';
import { planCommand } from './plan-command.js';
import { readCommand } from './read-command.js';
import { readersCommand } from './readers-command.js';
import { receiveCommand } from './receive-command.js';
import type { House } from '../house/index.js';
import type { SlipOptions } from '../people/index.js';

/** Reading a card, planning and filing it from beginning to end. */
export function addArrivingCommands(program: Command, frame: Frame<House>): void {
  program
    .command('read')
    .description('what is on a card or in a folder')
    .argument('<folder>')
    .option('--json', 'one JSON object a line')
    .option('--objects', 'a line an exposure, clip or recording, with all that belongs to it')
    .action((folder: string, options: { json?: boolean; objects?: boolean }) =>
      frame.alone(() => readCommand(resolve(folder), options, frame.zone())),
    );

  program
    .command('readers')
    .description("what lies in this station's readers: capacity, condition, and what may be pulled")
    .option('--json', 'one JSON object a line')
    .action((options: { json?: boolean }) => frame.withHouse((house) => readersCommand(house, options)));

  program
    .command('plan')
    .description('where everything would go; nothing is written')
    .argument('<folder>')
    .requiredOption('--contributor <code>', 'who took it')
    .requiredOption('--assignment <slug>', 'what it is')
    .option('--json', 'one JSON object a line')
    .action((folder: string, options: SlipOptions) => frame.withHouse((house) => planCommand(house, resolve(folder), options)));

  program
    .command('file')
    .description('file what is not filed yet, and prove every copy')
    .argument('<folder>')
    .requiredOption('--contributor <code>', 'who took it')
    .requiredOption('--assignment <slug>', 'what it is')
    .option('--label <label>', 'tape label of the card')
    .option('--json', 'one JSON object a line')
    .action((folder: string, options: SlipOptions & { label?: string }) =>
      frame.withHouse((house) => fileCommand(house, resolve(folder), options, frame.signal)),
    );

  program
    .command('receive')
    .description('open and read an intake without filing it')
    .argument('<folder>')
    .option('--contributor <code>', 'who took it')
    .option('--assignment <slug>', 'what it is')
    .option('--label <label>', 'tape label of the card')
    .option('--json', 'one JSON object a line')
    .action((folder: string, options: { contributor?: string; assignment?: string; label?: string; json?: boolean }) =>
      frame.withHouse((house) => receiveCommand(house, resolve(folder), options, frame.signal)),
    );

  program
    .command('look')
    .description('the runs of a card, and the sharpest of similar frames')
    .argument('<folder>')
    .option('--json', 'one JSON object a line')
    .action((folder: string, options: { json?: boolean }) =>
      frame.alone(() => lookCommand(resolve(folder), options, frame.zone())),
    );
}
