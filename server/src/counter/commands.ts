import type { Command } from 'commander';
import type { Frame } from '../cli/frame.js';
import {
  backCommand,
  lendCommand,
  lendingCommand,
  moveCommand,
  thingCommand,
  trayCommand,
  type LendOptions,
} from './lending-commands.js';
import type { House } from '../house/index.js';

/** Printing is loaded by those who print: it would slow down every other start. */
const paper = () => import('./labels-command.js');

/** Trays, what is lent, and labels. */
export function addCounterCommands(program: Command, frame: Frame<House>): void {
  program
    .command('trays')
    .description('what lies in which tray, and what is out')
    .option('--json', 'one JSON object a line')
    .action((options: { json?: boolean }) => frame.withHouse((house) => trayCommand(house, options)));

  program
    .command('move')
    .description('move a card to another tray, if the process allows it')
    .argument('<label>', 'tape label of the card')
    .argument('<tray>', 'in, "on the desk", "to give back" or out')
    .action((label: string, tray: string) => frame.withHouse((house) => moveCommand(house, label, tray)));

  program
    .command('lending')
    .description('cards and other things of the house, and who has them')
    .option('--out', 'only what is out')
    .option('--json', 'one JSON object a line')
    .action((options: { out?: boolean; json?: boolean }) => frame.withHouse((house) => lendingCommand(house, options)));

  program
    .command('lend')
    .description('lend cards and other things')
    .argument('<labels...>', 'what stands on their tape')
    .requiredOption('--to <code>', 'who gets them')
    .option('--due <day>', 'when they are due, such as 2026-05-02')
    .option('--days <n>', 'they are due in so many days')
    .option('--note <text>', 'what it is for')
    .action((labels: string[], options: LendOptions) => frame.withHouse((house) => lendCommand(house, labels, options)));

  program
    .command('back')
    .description('lent things are back; cards are handed in')
    .argument('<labels...>', 'what stands on their tape')
    .option('--unused', 'the cards hold nothing new')
    .action((labels: string[], options: { unused?: boolean }) => frame.withHouse((house) => backCommand(house, labels, options)));

  program
    .command('thing')
    .description('add a card or another thing to the lending list')
    .argument('<label>', 'what stands on its tape')
    .requiredOption('--kind <kind>', 'card, reader, cable, camera, recorder or other')
    .option('--name <name>', 'what it is')
    .action((label: string, options: { kind: string; name?: string }) =>
      frame.withHouse((house) => thingCommand(house, label, options)),
    );

  program
    .command('labels')
    .description('labels for cards with a bar code each, as PDF')
    .argument('[labels...]', 'labels such as C-014; else say --count for new ones')
    .option('--count <n>', 'that many new labels')
    .option('--form <form>', 'sheet (A4, 3 × 8) or tape', 'sheet')
    .option('--skip <n>', 'places of the first sheet that are used up', '0')
    .option('--out <file>', 'where to write it; else labels.pdf')
    .action((labels: string[], options: { count?: string; form: string; skip: string; out?: string }) =>
      frame.withHouse(async (house) => (await paper()).labelsCommand(house, labels, options)),
    );
}
