import { CHECK_HOWS } from '@tally/contract';
import type { Command } from 'commander';
import type { Frame } from '../cli/frame.js';
import { EXIT, jsonLine, say, WHO, WrongUse } from '../cli/output.js';
import { placeIsKnown } from '../driving/index.js';
import type { House } from '../house/index.js';
import { adopt, adopted, type AdoptOptions, saidIn } from './adopt-command.js';
import { goOnAdopting, stopAdoption } from './asking-to-adopt.js';
import { check, type CheckOptions, strays } from './check-command.js';
import { type Dry, mustBe, number, type Out } from './command-ways.js';
import { back, doMend, empty, itemsAt, mend, mends } from './mend-command.js';
import { whereLeads } from './viewing.js';

/** `tally drive`: the drive as it is. */
export function addTendingCommands(program: Command, frame: Frame<House>): void {
  const drive = program.command('drive').description('what stands on the places: checked, adopted, mended');
  const on = (command: Command) =>
    command.option('--place <id>', 'which place', 'shared').option('--json', 'one JSON object a line');
  on(drive.command('check'))
    .description('compares a place with the logbook and the house rule')
    .option('--how <way>', CHECK_HOWS.join(', '), 'size and time')
    .option('--no-names', 'without judging names')
    .option('--strict', "names as today's rule gives them, to the letter")
    .option('--kind <kind>', 'only findings of this kind')
    .option('--each', 'one by one, not folder by folder')
    .action((options: CheckOptions) => frame.withHouse((house) => check(house, options, frame.signal)));
  drive
    .command('known')
    .description('this is that drive: it counts as the place, though it carries another mark, or none')
    .argument('<place>')
    .action((place: string) =>
      frame.withHouse(async (house) => {
        await mustBe(house, place);
        const before = await placeIsKnown(house, place, WHO, frame.signal);
        say(`It is ${place} from now on (${before}). Compare it with the logbook: tally drive check --place ${place}`);
        return EXIT.done;
      }),
    );
  on(drive.command('strays'))
    .description('what stands there and nobody filed, as it was seen last')
    .action((options: Out & { place: string }) => frame.withHouse((house) => strays(house, options)));
  on(drive.command('adopt'))
    .description('takes folders of strays into the logbook where they stand')
    .argument('<folder>', 'from the root of the place; with all below it')
    .option('--contributor <code>', 'whose it is, where names do not say')
    .option('--assignment <slug>', 'what it was covered for, where names do not say')
    .option('--title <title>', 'an assignment to be made for what names do not say')
    .option('--day <yyyy-MM-dd>', 'day of files that say none themselves')
    .option('--dry', 'only says what names say')
    .action((folder: string, options: Dry & AdoptOptions) =>
      frame.withHouse((house) => adopt(house, folder, options, frame.signal)),
    );
  on(drive.command('mend'))
    .description('puts right what the last check found')
    .argument('[kinds...]', 'kinds of findings; else all that have a mend')
    .option('--folder <path>', 'only in this folder and below')
    .option('--dry', 'only shows what would be done')
    .action((kinds: string[], options: Dry & { place: string; folder?: string }) =>
      frame.withHouse((house) => mend(house, kinds, options, frame.signal)),
    );
  drive
    .command('re-file')
    .description('gives files the names that the rule gives today, with what is said here')
    .argument('<path...>', 'files or folders, as the logbook has them')
    .option('--contributor <code>', 'whose they are')
    .option('--assignment <slug>', 'what they were covered for')
    .option('--as-in <folder>', 'for the assignment of what is filed there')
    .option('--day <yyyy-MM-dd>', 'when they were taken')
    .option('--dry', 'only shows what would be done')
    .option('--json', 'one JSON object a line')
    .action((paths: string[], options: Dry & { contributor?: string; assignment?: string; asIn?: string; day?: string }) =>
      frame.withHouse(async (house) => {
        const itemIds = await itemsAt(house, paths);
        const like = options.asIn === undefined ? {} : { asIn: options.asIn };
        const ask = { kind: 're-file', itemIds, ...like, ...(await saidIn(house, options)) };
        return doMend(house, ask, options, frame.signal);
      }),
    );
  drive
    .command('move')
    .description('gives a folder another name, or moves it to another place')
    .argument('<folder>')
    .argument('[to]', 'its new path')
    .option('--from <place>', 'the place it leaves')
    .option('--to-place <place>', 'the place it goes to')
    .option('--dry', 'only shows what would be done')
    .option('--json', 'one JSON object a line')
    .action((folder: string, to: string | undefined, options: Dry & { from?: string; toPlace?: string }) =>
      frame.withHouse((house) => {
        if ((to === undefined) === (options.toPlace === undefined))
          throw new WrongUse('Say a new path, or --to-place with --from.');
        const ask =
          to === undefined
            ? { kind: 'to another place', folder, from: options.from ?? 'shared', to: options.toPlace }
            : { kind: 'rename folder', folder, to };
        return doMend(house, ask, options, frame.signal);
      }),
    );
  drive
    .command('put-aside')
    .description('moves files that should not have been filed into the tray on the drive')
    .argument('<path...>', 'files or folders, as the logbook has them')
    .requiredOption('--why <words>', 'why')
    .option('--dry', 'only shows what would be done')
    .option('--json', 'one JSON object a line')
    .action((paths: string[], options: Dry & { why: string }) =>
      frame.withHouse(async (house) =>
        doMend(house, { kind: 'put aside', itemIds: await itemsAt(house, paths), why: options.why }, options, frame.signal),
      ),
    );
  drive
    .command('take-back')
    .description('takes a mend back, as long as nothing else came in between')
    .argument('<mend>', 'its number')
    .option('--dry', 'only shows what would be done')
    .option('--json', 'one JSON object a line')
    .action((id: string, options: Dry) => frame.withHouse((house) => back(house, number(id), options, frame.signal)));
  drive
    .command('mends')
    .description('what was mended, the newest first')
    .option('--json', 'one JSON object a line')
    .action((options: Out) => frame.withHouse((house) => mends(house, options)));
  drive
    .command('empty-tray')
    .description('removes for good what was put aside and whose days are over')
    .option('--sure', 'does it; else only says what would be removed')
    .option('--json', 'one JSON object a line')
    .action((options: Out & { sure?: boolean }) => frame.withHouse((house) => empty(house, options, frame.signal)));
  drive
    .command('stop')
    .description('stops an adoption; what was adopted stays')
    .argument('<adoption>')
    .action((id: string) =>
      frame.withHouse(async (house) => {
        await stopAdoption(house, number(id));
        say(`Adoption ${id} stopped. tally drive go-on ${id} goes on with it.`);
        return EXIT.done;
      }),
    );
  drive
    .command('go-on')
    .description('goes on with an adoption that was stopped')
    .argument('<adoption>')
    .option('--json', 'one JSON object a line')
    .action((id: string, options: Out) =>
      frame.withHouse(async (house) => {
        await goOnAdopting(house, number(id));
        return adopted(house, number(id), options, frame.signal);
      }),
    );
  drive
    .command('where')
    .description('where a path leads that is printed somewhere, whatever it is called by now')
    .argument('<path>')
    .option('--json', 'one JSON object a line')
    .action((path: string, options: Out) =>
      frame.withHouse(async (house) => {
        const leads = await whereLeads(house, path);
        if (options.json) jsonLine(leads);
        else
          say(
            `${leads.path}  (intake ${leads.intakeNumber}${leads.until ? `, called ${path} until ${leads.until.slice(0, 10)}` : ''})`,
          );
        return EXIT.done;
      }),
    );
}
