import { IMPORTS, type ImportAnswer, type ImportName, type LocationView } from '@tally/contract';
import { foldText } from '@tally/core/words';
import { toCsv } from '@tally/core/spreadsheet';
import type { Command } from 'commander';
import type { Frame } from '../../cli/frame.js';
import { houseCommandOf } from '../../cli/house-command.js';
import { EXIT, jsonLine, print, say, table, WHO, WrongUse } from '../../cli/output.js';
import { read } from '../../cli/read-file.js';
import { collect } from '../../cli/said.js';
import type { House } from '../../house/index.js';
import { mergeAssignments, mergeContributors } from '../correcting.js';
import { assignmentBySlug, contributorByCode } from '../store/people.js';
import { wordsNamed } from '../store/words.js';
import { HOUSE_SETS, houseCommand } from './house-command.js';
import { houseList, mergeInList } from './lists.js';
import { exportSheet, importSheet } from './sheets.js';
import { exportSkos, importSkos } from './word-sheets.js';
import { mergeWords } from './words.js';

const ABOUT: Readonly<Record<ImportName, { what: string; known: string }>> = {
  people: { what: 'contributors', known: 'code' },
  assignments: { what: 'assignments', known: 'short name' },
  words: { what: 'words', known: 'word' },
  locations: { what: 'locations', known: 'name' },
};

/** `tally house`, and `tally people|assignments|words|locations list|export|import|merge` */
export function addListCommands(program: Command, frame: Frame<House>): void {
  houseCommandOf(program)
    .description('what the house says of every item unless something nearer does, and where credit is written')
    .option('--set <field=value>', `${HOUSE_SETS.join(', ')}; repeatable`, collect, [])
    .option('--json', 'one JSON object')
    .action((options: { set: string[]; json?: boolean }) => frame.withHouse((house) => houseCommand(house, options)));
  for (const name of IMPORTS) {
    const { what, known } = ABOUT[name];
    const group = program.command(name).description(`list ${what}, take them in from a file, give them out, make two one`);
    group
      .command('list')
      .description(`list ${what}`)
      .option('--json', 'one JSON object a line')
      .action((options: { json?: boolean }) => frame.withHouse((house) => listCommand(house, name, options)));
    group
      .command('export')
      .description(`print ${what} as CSV${name === 'words' ? ', or as SKOS in Turtle' : ''}`)
      .option('--as <form>', name === 'words' ? 'csv or turtle' : 'csv', 'csv')
      .action((options: { as: string }) => frame.withHouse((house) => exportCommand(house, name, options.as)));
    group
      .command('import')
      .description(
        `show what a CSV file${name === 'words' ? ' (or SKOS in Turtle, .ttl)' : ''} would change, and change it with --apply`,
      )
      .argument('<file>')
      .option('--apply', 'change it: all of it, or nothing when anything is wrong')
      .option('--json', 'one JSON object')
      .action((file: string, options: { apply?: boolean; json?: boolean }) =>
        frame.withHouse((house) => importCommand(house, name, file, options)),
      );
    group
      .command('merge')
      .description(`make two ${what} one: whatever spoke of the first speaks of the second`)
      .argument(`<${known.replace(' ', '-')}>`)
      .argument('<into>')
      .action((from: string, into: string) => frame.withHouse((house) => mergeCommand(house, name, from, into)));
  }
}

async function listCommand(house: House, name: ImportName, { json }: { json?: boolean }): Promise<number> {
  const { columns, rows } = await exportSheet(house, name);
  if (json) for (const row of rows) jsonLine(Object.fromEntries(columns.map((column, i) => [column, row[i]])));
  else {
    // What nobody filled says nothing.
    const filled = columns.map((_column, i) => i).filter((i) => rows.some((row) => row[i] !== ''));
    table(
      filled.map((i) => columns[i]!),
      rows.map((row) => filled.map((i) => row[i]!)),
    );
  }
  return EXIT.done;
}

async function exportCommand(house: House, name: ImportName, as: string): Promise<number> {
  if (as === 'turtle' && name === 'words') print(await exportSkos(house));
  else if (as === 'csv') print(toCsv(await exportSheet(house, name)));
  else throw new WrongUse(name === 'words' ? '--as is csv or turtle.' : '--as is csv.');
  return EXIT.done;
}

async function importCommand(
  house: House,
  name: ImportName,
  file: string,
  options: { apply?: boolean; json?: boolean },
): Promise<number> {
  const bytes = await read(file);
  const apply = options.apply ?? false;
  const answer =
    name === 'words' && /\.(ttl|turtle)$/i.test(file)
      ? await importSkos(house, bytes.toString('utf8'), apply, WHO)
      : await importSheet(house, name, bytes, apply, WHO);
  if (options.json) jsonLine(answer);
  else tellOf(answer);
  return answer.faults.length ? EXIT.attention : EXIT.done;
}

function tellOf({ read, added, changed, same, lines, faults, applied }: ImportAnswer): void {
  say(`Read as ${read}: ${added} new, ${changed} changed, ${same} as they are.`);
  if (lines.length)
    table(
      ['line', 'what', 'does', ''],
      lines.map(({ line, key, does, words }) => [line || null, key, does, words]),
    );
  for (const { line, what } of faults) say(line ? `Line ${line} ${what}.` : `${what}.`);
  if (applied) say('Taken in.');
  else say(faults.length ? 'Nothing was changed: put this right first.' : 'Nothing was changed: say --apply to take it in.');
}

async function mergeCommand(house: House, name: ImportName, from: string, into: string): Promise<number> {
  const [a, b] = [await idOf(house, name, from), await idOf(house, name, into)];
  const { items, following } = await {
    people: () => mergeContributors(house, a, b, WHO),
    assignments: () => mergeAssignments(house, a, b, WHO),
    words: () => mergeWords(house, a, b, WHO),
    locations: () => mergeInList(house, 'locations', a, b, WHO),
  }[name]();
  say(`${from} is ${into} now: ${items} items; ${following} records beside the files are written anew.`);
  return EXIT.done;
}

async function idOf(house: House, name: ImportName, said: string): Promise<number> {
  const found = await {
    people: async () => (await contributorByCode(house.db, said))?.id,
    assignments: async () => (await assignmentBySlug(house.db, said))?.id,
    words: async () => (await wordsNamed(house.db, [said])).get(foldText(said)),
    locations: async () => locationCalled(await houseList(house.db, 'locations'), said),
  }[name]();
  if (found === undefined) throw new WrongUse(`There is no ${ABOUT[name].known} ${said}.`);
  return found;
}

const locationCalled = (locations: readonly LocationView[], name: string) =>
  locations.find((location) => location.name.toLowerCase() === name.toLowerCase())?.id;
