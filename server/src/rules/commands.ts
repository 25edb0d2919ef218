import type { Command } from 'commander';
import { resolve } from 'node:path';
import type { Frame } from '../cli/frame.js';
import {
  isSaid,
  ruleCheckCommand,
  ruleExportCommand,
  ruleListCommand,
  ruleReadCommand,
  ruleRenderCommand,
  ruleSaveCommand,
  type WhichRule,
} from './rule-command.js';
import type { House } from '../house/index.js';
import type { ReadLine } from '../slip/index.js';

/** Reads a folder without a house, in a time zone. */
type ReadFolder = (folder: string, zone: string) => AsyncIterable<ReadLine>;

/** Adds `tally rule …` to a program. */
export function addRuleCommands(program: Command, { withHouse, alone, zone }: Frame<House>, readAlone: ReadFolder): void {
  const rules = program.command('rule').description('the house rule: try it, read names back, change it');
  const rule = (name: string, description: string) =>
    rules
      .command(name)
      .description(description)
      .option('--folder-line <line>', 'a folder line to try')
      .option('--file-line <line>', 'a file line to try')
      .option('--file <file>', 'a rule in a file')
      .option('--starter <name>', 'a starter rule (tally rule list --starters)')
      .option('--revision <n>', 'a revision of the house rule; else the newest')
      .option('--json', 'one JSON object a line');

  /** Rules that are said here need no house: they can be tried on any machine. */
  const withOrWithoutHouse = (which: WhichRule, run: (house: House | null) => Promise<number>) =>
    isSaid(which) ? alone(() => run(null)) : withHouse(run);

  rule('check', 'the five verdicts, each with a counterexample when it fails')
    .option('--card <folder>', 'real items to try it on')
    .action((which: WhichRule & { card?: string }) =>
      withOrWithoutHouse(which, (house) => ruleCheckCommand(which, house, (folder) => readAlone(resolve(folder), zone()))),
    );

  rule('render', 'old and new names of a folder; looks at no drive and draws no numbers')
    .argument('<folder>')
    .option('--contributor <code>', 'who took it')
    .option('--assignment <slug>', 'what it is')
    .option('--csv', 'as CSV')
    .option('--tsv', 'as tab-separated text')
    .action((folder: string, which: WhichRule & { contributor?: string; assignment?: string; csv?: boolean; tsv?: boolean }) => {
      const render = (house: House | null) => ruleRenderCommand(resolve(folder), which, house, (path) => readAlone(path, zone()));
      return which.contributor === undefined && which.assignment === undefined
        ? withOrWithoutHouse(which, render)
        : withHouse(render);
    });

  rule('read', 'the fields in names on the drive')
    .argument('<paths...>', 'paths as they stand on the drive, such as 2026/2026-04/…/20260418_IB_0001.jpg')
    .action((paths: string[], which: WhichRule) => withOrWithoutHouse(which, (house) => ruleReadCommand(paths, which, house)));

  rule('save', 'make a rule the house rule, as a new revision')
    .requiredOption('--note <words>', 'why')
    .action((which: WhichRule & { note: string }) => withHouse((house) => ruleSaveCommand(which, house)));

  rule('export', 'a rule as a file for another house').action((which: WhichRule) =>
    withOrWithoutHouse(which, (house) => ruleExportCommand(which, house)),
  );

  rules
    .command('list')
    .description('all revisions')
    .option('--starters', 'the rules to begin with')
    .option('--json', 'one JSON object a line')
    .action((options: { starters?: boolean; json?: boolean }) =>
      options.starters ? alone(() => ruleListCommand(options, null)) : withHouse((house) => ruleListCommand(options, house)),
    );
}
