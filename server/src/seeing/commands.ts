import type { Command } from 'commander';
import type { Frame } from '../cli/frame.js';
import { clockCommand } from './clock-command.js';
import { judgeCommand, previewsCommand, splitCommand, takeCommand } from './judge-commands.js';
import type { House } from '../house/index.js';

/** Looking at items, and saying what one thinks of them. */
export function addSeeingCommands(program: Command, frame: Frame<House>): void {
  for (const [name, taken] of [
    ['take', true],
    ['leave', false],
  ] as const) {
    program
      .command(name)
      .description(taken ? 'file these items when the intake is filed' : 'leave these items on the card')
      .argument('<number>', 'number of the intake')
      .argument('<patterns...>', 'paths on the card, such as DCIM/** or *.MP4')
      .action((number: string, patterns: string[]) => frame.withHouse((house) => takeCommand(house, number, patterns, taken)));
  }

  program
    .command('split')
    .description('give items of an intake to another assignment or contributor')
    .argument('<number>', 'number of the intake')
    .argument('<patterns...>', 'paths on the card')
    .option('--assignment <slug>', 'what they were shot for')
    .option('--contributor <code>', 'who took them')
    .action((number: string, patterns: string[], options: { assignment?: string; contributor?: string }) =>
      frame.withHouse((house) => splitCommand(house, number, patterns, options)),
    );

  program
    .command('judge')
    .description('say what you think of items')
    .argument('<number>', 'number of the intake')
    .argument('<patterns...>', 'paths on the card')
    .option('--verdict <verdict>', 'select, reshoot, hold or none')
    .option('--description <text>', 'a short description')
    .option('--role <role>', 'what footage is for: main, supporting or none')
    .option('--profile <name>', 'flat colour profile that footage was shot with')
    .action((number: string, patterns: string[], options: Parameters<typeof judgeCommand>[3]) =>
      frame.withHouse((house) => judgeCommand(house, number, patterns, options)),
    );

  program
    .command('clock')
    .description('the cameras of an intake; with a shift, put the clock of one right')
    .argument('<number>', 'number of the intake')
    .option('--camera <camera>', 'serial number or model, when there are several')
    .option('--item <path>', 'the picture whose true time is known')
    .option('--true <time>', 'its true time, such as 14:05 or "2026-04-18 14:05:30"')
    .option('--seconds <seconds>', 'seconds to add to the time of the camera')
    .option('--zone <hours>', 'hours to add: the camera was set to another time zone')
    .option('--json', 'one JSON object a line')
    .action((number: string, options: Parameters<typeof clockCommand>[2]) =>
      frame.withHouse((house) => clockCommand(house, number, options)),
    );

  program
    .command('previews')
    .description('make every preview that is still missing')
    .action(() => frame.withHouse((house) => previewsCommand(house, frame.signal)));
}
