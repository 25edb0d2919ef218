import { Command, CommanderError } from 'commander';
import { dirname, resolve } from 'node:path';
import { LogExport, LogQuery } from '@tally/contract';
import { formatBytes, LOG_COLUMNS } from '@tally/core/logbook';
import { compose, type Composition } from '../composition.js';
import { exportLog, logLines } from '../shelf/logbook.js';
import { Refusal } from '../house/house.js';
import type { Clock } from '../clock.js';
import { readSettings, SettingsError } from '../settings.js';
import { clearanceCommand, clearCommand, restoreCommand, type CardAt } from '../clearing/commands.js';
import { fileCommand } from '../filing/file-command.js';
import { haltCommand } from '../filing/halt-command.js';
import { fillCommand, placesCommand } from '../keeping/commands.js';
import {
  clockCommand,
  judgeCommand,
  linkCommand,
  personCommand,
  previewsCommand,
  receiveCommand,
  splitCommand,
  takeCommand,
} from './intake.js';
import { backCommand, lendCommand, lendingCommand, moveCommand, thingCommand, trayCommand, type LendOptions } from '../counter/lending-commands.js';
import { lookCommand } from '../seeing/look-command.js';
import { EXIT, jsonLine, table, WrongUse } from './output.js';
import { planCommand, type SlipOptions } from '../filing/plan-command.js';
import { readCommand } from '../arriving/read-command.js';
import { addRuleCommands } from '../rules/commands.js';
import { readStory, replayCommand } from './story.js';
import { tallyCommand } from '../proving/tally-command.js';

const stopping = new AbortController();
process.on('SIGINT', () => stopping.abort());
process.on('SIGTERM', () => stopping.abort());

const program = new Command('tally')
  .description('Reads cards, shows where everything goes, files it with proven copies, and keeps the log.')
  .option('--settings <file>', 'settings file; else TALLY_SETTINGS, ./tally.json, ./.tally/tally.json, the demo')
  .exitOverride()
  .configureOutput({ outputError: (text, write) => write(text) });

let exitCode: number = EXIT.done;

const named = () => program.opts<{ settings?: string }>().settings;

/** Runs with an open database. The command line is a station of its own: it does the work itself. */
async function withHouse(run: (composition: Composition) => Promise<number>, clock?: Clock): Promise<void> {
  const { settings } = readSettings(process.env, process.cwd(), named());
  const station = `${settings.station} (command line)`.slice(0, 40);
  const composition = await compose(
    { ...settings, station, log: process.env['TALLY_LOG'] ? settings.log : 'error' },
    clock ? { clock } : {},
  );
  try {
    exitCode = await run(composition);
  } finally {
    await composition.close();
  }
}

/** Runs what needs no house. */
async function alone(run: () => Promise<number>): Promise<void> {
  exitCode = await run();
}

program
  .command('read')
  .description('what is on a card or in a folder')
  .argument('<folder>')
  .option('--json', 'one JSON object a line')
  .action(async (folder: string, options: { json?: boolean }) => {
    exitCode = await readCommand(resolve(folder), options, zoneOfHouse());
  });

/** Reading needs no settings; with them, UTC times are shown in the house's zone. */
function zoneOfHouse(): string {
  try {
    return readSettings(process.env, process.cwd(), named()).settings.zone;
  } catch (error) {
    if (named()) throw error;
    return process.env['TALLY_ZONE'] ?? Intl.DateTimeFormat().resolvedOptions().timeZone;
  }
}

program
  .command('plan')
  .description('where everything would go; nothing is written')
  .argument('<folder>')
  .requiredOption('--contributor <code>', 'who took it')
  .requiredOption('--assignment <slug>', 'what it is')
  .option('--json', 'one JSON object a line')
  .action((folder: string, options: SlipOptions) =>
    withHouse((composition) => planCommand(composition, resolve(folder), options)),
  );

program
  .command('file')
  .description('file what is not filed yet, and prove every copy')
  .argument('<folder>')
  .requiredOption('--contributor <code>', 'who took it')
  .requiredOption('--assignment <slug>', 'what it is')
  .option('--label <label>', 'tape label of the card')
  .option('--json', 'one JSON object a line')
  .action((folder: string, options: SlipOptions & { label?: string }) =>
    withHouse((composition) => fileCommand(composition, resolve(folder), options, stopping.signal)),
  );

program
  .command('look')
  .description('the runs of a card, and the sharpest of similar frames')
  .argument('<folder>')
  .option('--json', 'one JSON object a line')
  .action(async (folder: string, options: { json?: boolean }) => {
    exitCode = await lookCommand(resolve(folder), options, zoneOfHouse());
  });

program
  .command('receive')
  .description('open and read an intake without filing it')
  .argument('<folder>')
  .option('--contributor <code>', 'who took it')
  .option('--assignment <slug>', 'what it is')
  .option('--label <label>', 'tape label of the card')
  .option('--json', 'one JSON object a line')
  .action((folder: string, options: { contributor?: string; assignment?: string; label?: string; json?: boolean }) =>
    withHouse((composition) => receiveCommand(composition, resolve(folder), options, stopping.signal)),
  );

for (const [name, taken] of [
  ['take', true],
  ['leave', false],
] as const) {
  program
    .command(name)
    .description(taken ? 'file these items when the intake is filed' : 'leave these items on the card')
    .argument('<number>', 'number of the intake')
    .argument('<patterns...>', 'paths on the card, such as DCIM/** or *.MP4')
    .action((number: string, patterns: string[]) =>
      withHouse((composition) => takeCommand(composition, number, patterns, taken)),
    );
}

program
  .command('split')
  .description('give items of an intake to another assignment or contributor')
  .argument('<number>', 'number of the intake')
  .argument('<patterns...>', 'paths on the card')
  .option('--assignment <slug>', 'what they were shot for')
  .option('--contributor <code>', 'who took them')
  .action((number: string, patterns: string[], options: { assignment?: string; contributor?: string }) =>
    withHouse((composition) => splitCommand(composition, number, patterns, options)),
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
    withHouse((composition) => judgeCommand(composition, number, patterns, options)),
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
    withHouse((composition) => clockCommand(composition, number, options)),
  );

program
  .command('link')
  .description('make a link by which somebody may hand in, and nothing else')
  .option('--hours <hours>', 'how long it is good', '24')
  .action((options: { hours: string }) => withHouse((composition) => linkCommand(composition, options)));

program
  .command('person')
  .description('add somebody who may sign in; the password is read from TALLY_PASSWORD')
  .argument('<name>')
  .requiredOption('--role <role>', 'administrator, coordinator or hand-in')
  .action((name: string, options: { role: string }) => withHouse((composition) => personCommand(composition, name, options)));

program
  .command('previews')
  .description('make every preview that is still missing')
  .action(() => withHouse((composition) => previewsCommand(composition, stopping.signal)));

program
  .command('log')
  .description('the logbook, newest first')
  .argument('[words...]', 'words that must be found')
  .option('--limit <n>', 'how many lines', '50')
  .option('--json', 'one JSON object a line')
  .option('--csv', 'every line that is found, as CSV')
  .option('--columns <names>', 'with --csv: columns with commas between')
  .action((words: string[], options: { limit: string; json?: boolean; csv?: boolean; columns?: string }) =>
    withHouse(async ({ house }) => {
      if (options.csv) {
        const ask = LogExport.safeParse({ words: words.join(' '), ...(options.columns ? { columns: options.columns } : {}) });
        if (!ask.success) throw new WrongUse(`--columns are some of ${LOG_COLUMNS.join(',')}.`);
        process.stdout.write(await exportLog(house, ask.data, 'csv'));
        return EXIT.done;
      }
      const query = LogQuery.safeParse({ words: words.join(' '), limit: options.limit });
      if (!query.success)
        throw new WrongUse(query.error.issues.map((issue) => `--${issue.path.join('.')}: ${issue.message}`).join('\n'));
      const lines = await logLines(house, query.data);
      if (options.json) lines.forEach(jsonLine);
      else {
        const head = ['number', 'date', 'assignment', 'contributor', 'card', 'items', 'size', 'first', 'last', 'state'];
        table(
          head,
          lines.map((l) => [
            l.number,
            l.date,
            l.assignment,
            l.contributor,
            l.card,
            l.items,
            formatBytes(l.bytes),
            l.first,
            l.last,
            l.state,
          ]),
        );
      }
      return EXIT.done;
    }),
  );

program
  .command('tally')
  .description('compare filed files with the checksum and hash lists beside them; needs no database')
  .argument('<folder>')
  .option('--json', 'one JSON object a line')
  .action(async (folder: string, options: { json?: boolean }) => {
    exitCode = await tallyCommand(resolve(folder), options);
  });

program
  .command('places')
  .description('how every place stands, what it holds and what it waits for')
  .option('--json', 'one JSON object a line')
  .action((options: { json?: boolean }) => withHouse((composition) => placesCommand(composition, options)));

program
  .command('fill')
  .description('make the copies that places wait for, from copies that tally; no card is needed')
  .argument('[places...]', 'ids of places; else every place that waits')
  .option('--json', 'one JSON object a line')
  .action((places: string[], options: { json?: boolean }) =>
    withHouse((composition) => fillCommand(composition, places, options, stopping.signal)),
  );

program
  .command('trays')
  .description('what lies in which tray, and what is out')
  .option('--json', 'one JSON object a line')
  .action((options: { json?: boolean }) => withHouse((composition) => trayCommand(composition, options)));

program
  .command('move')
  .description('move a card to another tray, if the process allows it')
  .argument('<label>', 'tape label of the card')
  .argument('<tray>', 'in, "on the desk", "to give back" or out')
  .action((label: string, tray: string) => withHouse((composition) => moveCommand(composition, label, tray)));

program
  .command('lending')
  .description('cards and other things of the house, and who has them')
  .option('--out', 'only what is out')
  .option('--json', 'one JSON object a line')
  .action((options: { out?: boolean; json?: boolean }) => withHouse((composition) => lendingCommand(composition, options)));

program
  .command('lend')
  .description('lend cards and other things')
  .argument('<labels...>', 'what stands on their tape')
  .requiredOption('--to <code>', 'who gets them')
  .option('--due <day>', 'when they are due, such as 2026-05-02')
  .option('--days <n>', 'they are due in so many days')
  .option('--note <text>', 'what it is for')
  .action((labels: string[], options: LendOptions) => withHouse((composition) => lendCommand(composition, labels, options)));

program
  .command('back')
  .description('lent things are back; cards are handed in')
  .argument('<labels...>', 'what stands on their tape')
  .option('--unused', 'the cards hold nothing new')
  .action((labels: string[], options: { unused?: boolean }) =>
    withHouse((composition) => backCommand(composition, labels, options)),
  );

program
  .command('thing')
  .description('add a card or another thing to the lending list')
  .argument('<label>', 'what stands on its tape')
  .requiredOption('--kind <kind>', 'card, reader, cable, camera, recorder or other')
  .option('--name <name>', 'what it is')
  .action((label: string, options: { kind: string; name?: string }) =>
    withHouse((composition) => thingCommand(composition, label, options)),
  );

for (const [name, wish, says] of [
  ['pause', 'pause', 'let a filing pause'],
  ['go-on', 'go on', 'let a paused filing go on'],
  ['stop', 'stop', 'end a filing: what is whole stays, the rest is not filed'],
] as const) {
  program
    .command(name)
    .description(says)
    .argument('<number>', 'number of the intake')
    .action((number: string) => withHouse((composition) => haltCommand(composition, number, wish)));
}

const where = ['--card <folder>', 'where the card is now; else where it was read'] as const;

program
  .command('clearance')
  .description('may the card of an intake be cleared, as it is now?')
  .argument('<number>', 'number of the intake')
  .option(...where)
  .option('--full', 'read every byte of the card, not only both ends of each file')
  .option('--only <patterns...>', 'these paths on the card alone, such as DCIM/** or *.MP4')
  .option('--json', 'one JSON object')
  .action((number: string, options: Parameters<typeof clearanceCommand>[2]) =>
    withHouse((composition) => clearanceCommand(composition, number, resolved(options))),
  );

program
  .command('clear')
  .description('clear the card of an intake, if it is safe')
  .argument('<number>', 'number of the intake')
  .option(...where)
  .option('--only <patterns...>', 'remove these paths on the card alone, under the same rule')
  .option('--let-go', 'remove also what was left and stands nowhere else')
  .option('--sure', 'sound and files of unknown kind too')
  .action((number: string, options: Parameters<typeof clearCommand>[2]) =>
    withHouse((composition) => clearCommand(composition, number, resolved(options))),
  );

const resolved = <O extends CardAt>(options: O): O =>
  options.card === undefined ? options : { ...options, card: resolve(options.card) };

program
  .command('restore')
  .description('put the files of an intake back as they were on its card')
  .argument('<number>', 'number of the intake')
  .argument('<folder>', 'a card or another folder')
  .action((number: string, folder: string) => withHouse((composition) => restoreCommand(composition, number, resolve(folder))));

/** Printing is loaded by those who print: it would slow down every other start. */
const paper = () => import('../proving/paper-commands.js');

program
  .command('receipt')
  .description('the printable proof of an intake, as PDF')
  .argument('<number>', 'number of the intake')
  .option('--out <file>', 'where to write it; else receipt-NUMBER.pdf')
  .option('--paper <size>', 'A4 or LETTER', 'A4')
  .action((number: string, options: { out?: string; paper: string }) =>
    withHouse(async (composition) => (await paper()).receiptCommand(composition, number, options)),
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
    withHouse(async (composition) => (await paper()).labelsCommand(composition, labels, options)),
  );

addRuleCommands(program, { withHouse, alone, zone: zoneOfHouse });

program
  .command('replay', { hidden: true })
  .argument('<story>')
  .action(async (file: string) => {
    const story = await readStory(resolve(file));
    // The house begins on the day of its first intake, its rule included.
    const clock = { now: new Date(story.intakes[0]?.at ?? Date.now()) };
    const replay = (composition: Composition) =>
      replayCommand(composition, story, dirname(resolve(file)), clock, stopping.signal);
    await withHouse(replay, () => clock.now);
  });

try {
  await program.parseAsync();
} catch (error) {
  exitCode = codeFor(error);
}
process.exit(exitCode);

function codeFor(error: unknown): number {
  if (error instanceof CommanderError) return error.exitCode === 0 ? EXIT.done : EXIT.wrongUse;
  const { message } = error as Error;
  const away = message.includes('ECONNREFUSED') || (error as { code?: string }).code === 'ECONNREFUSED';
  console.error(away ? 'tally: the database does not answer. Is it running (npm start, or npm run demo)?' : `tally: ${message}`);
  if (error instanceof Refusal) return EXIT.attention;
  return away || error instanceof WrongUse || error instanceof SettingsError ? EXIT.wrongUse : EXIT.attention;
}
