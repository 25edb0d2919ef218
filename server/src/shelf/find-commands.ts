import { type FoundItem, LIST_COLUMNS, ListExport, type ShelfQuery } from '@tally/contract';
import { formatBytes } from '@tally/core/logbook';
import { FIGURES_BY, type FiguresBy, LIST_ORDERS } from '@tally/core/find';
import { toCsv } from '@tally/core/spreadsheet';
import type { Command } from 'commander';
import { join } from 'node:path';
import type { Frame } from '../cli/frame.js';
import { EXIT, jsonLine, print, say, table, WrongUse } from '../cli/output.js';
import { copyOut } from '../drive/originals.js';
import type { House } from '../house/index.js';
import { everyFound, idsOf, shelfPage, understood } from './asking.js';
import { beforeFetching, toFetch } from './fetching.js';
import { figuresFor } from './figures.js';
import { exportList } from './listed.js';

interface FindOptions {
  readonly limit: string;
  readonly order: string;
  readonly up?: boolean;
  readonly columns?: string;
  readonly json?: boolean;
  readonly csv?: boolean;
  readonly paths0?: boolean;
}

const questionOf = (words: readonly string[]) => words.join(' ');
const nameOf = ({ filedAs, path }: FoundItem) => filedAs ?? path;

/** `tally find`, `tally fetch`, `tally figures`. */
export function addFindCommands(program: Command, frame: Frame<House>): void {
  program
    .command('find')
    .description('what is filed and answers a question: words, "exact words", -not, spring 2025, by:IB, raw, is:select …')
    .argument('[question...]', 'what is asked; nothing: everything')
    .option('--limit <n>', 'how many lines for people', '50')
    .option('--order <order>', LIST_ORDERS.join(', '), 'taken')
    .option('--up', 'the other way round: oldest, first letters, smallest first')
    .option('--columns <names>', 'with --csv: columns with commas between')
    .option('--json', 'everything that is found, one JSON object a line')
    .option('--csv', 'everything that is found, as CSV')
    .option('--paths0', 'paths on the drive of everything that is found, each ended by NUL')
    .action((words: string[], options: FindOptions) =>
      frame.withHouse((house) => findCommand(house, questionOf(words), options)),
    );

  program
    .command('fetch')
    .description('copies the originals of everything that answers a question into a folder')
    .argument('[question...]', 'what is asked')
    .requiredOption('--to <folder>', 'where to; what stands there is never replaced')
    .option('--as-on-card', 'names as on the card, not by the house')
    .option('--anyway', 'also what must not be shown or has to be asked for')
    .action((words: string[], options: { to: string; asOnCard?: boolean; anyway?: boolean }) =>
      frame.withHouse((house) => fetchCommand(house, questionOf(words), options)),
    );

  program
    .command('figures')
    .description('what is filed in figures')
    .argument('[question...]', 'of what; nothing: of everything')
    .option('--by <what>', FIGURES_BY.join(', '), 'month')
    .option('--json', 'one JSON object a line')
    .option('--csv', 'as CSV')
    .action((words: string[], options: { by: string; json?: boolean; csv?: boolean }) =>
      frame.withHouse((house) => figuresCommand(house, questionOf(words), options)),
    );
}

async function findCommand(house: House, question: string, options: FindOptions): Promise<number> {
  const asked = ListExport.safeParse({
    ...{ question, order: options.order, descending: String(!options.up) },
    ...(options.columns === undefined ? {} : { columns: options.columns }),
  });
  if (!asked.success) {
    const [issue] = asked.error.issues;
    const where = issue?.path[0];
    if (where === 'order') throw new WrongUse(`--order is one of ${LIST_ORDERS.join(', ')}.`);
    if (where === 'columns') throw new WrongUse(`--columns are some of ${LIST_COLUMNS.join(',')}.`);
    throw new WrongUse(`The question is no question: ${issue?.message}.`);
  }
  if (options.csv) {
    for await (const piece of exportList(house, asked.data, 'csv')) print(piece);
    return EXIT.done;
  }
  if (options.json || options.paths0) {
    for await (const items of everyFound(house, asked.data))
      for (const item of items) {
        if (options.paths0) print(`${nameOf(item)}\0`);
        else jsonLine(item);
      }
    return EXIT.done;
  }
  const count = /^\d{1,3}$/.test(options.limit) ? Math.min(400, Number(options.limit)) : NaN;
  if (!count) throw new WrongUse('--limit is a number from 1 to 400.');
  const { question: view, total, items } = await shelfPage(house, { ...asked.data, from: 0, count } satisfies ShelfQuery);
  say(`${view.sentence}: ${total} ${total === 1 ? 'item' : 'items'}.`);
  const rows = items.map((item) => [
    ...[item.captured.local.replace('T', ' '), item.contributor?.code ?? '', item.kind, formatBytes(item.bytes)],
    ...[item.verdict ?? '', nameOf(item)],
  ]);
  if (rows.length) table(['taken', 'by', 'kind', 'size', 'verdict', 'path'], rows);
  return EXIT.done;
}

async function fetchCommand(
  house: House,
  question: string,
  { to, asOnCard, anyway }: { to: string; asOnCard?: boolean; anyway?: boolean },
): Promise<number> {
  const { view } = await understood(house, question);
  const ids = await idsOf(house, question, 1_000_000);
  const before = await beforeFetching(house, ids);
  say(`${view.sentence}: ${before.items} ${before.items === 1 ? 'item' : 'items'}, ${formatBytes(before.bytes)}.`);
  for (const { words, items } of [...before.no, ...before.ask]) say(`${items} of them: ${words}.`);
  if (!anyway && (before.no.length || before.ask.length)) {
    say('Nothing was fetched. Ask first, or say --anyway.');
    return EXIT.attention;
  }
  let [fetched, not] = [0, 0];
  for await (const one of toFetch(house, ids, asOnCard ? 'card' : 'house')) {
    const problem = one.problem ?? (await copyOut(one.file, join(to, one.name)));
    if (problem === null) fetched++;
    else {
      not++;
      say(`Not fetched: ${one.name}: ${problem}`);
    }
  }
  say(`${fetched} fetched to ${to}.`);
  return not ? EXIT.attention : EXIT.done;
}

async function figuresCommand(
  house: House,
  question: string,
  options: { by: string; json?: boolean; csv?: boolean },
): Promise<number> {
  if (!(FIGURES_BY as readonly string[]).includes(options.by)) throw new WrongUse(`--by is one of ${FIGURES_BY.join(', ')}.`);
  const { figures, question: view } = await figuresFor(house, { question, by: options.by as FiguresBy });
  const columns = [options.by, 'intakes', 'items', 'bytes', 'selects', 'late'];
  if (options.csv) {
    const rows = figures.map((one) => [one.words, one.intakes, one.items, one.bytes, one.selects, one.late]);
    print(toCsv({ columns, rows }));
  } else if (options.json) figures.forEach(jsonLine);
  else {
    say(`${view.sentence}:`);
    table(
      columns,
      figures.map((one) => [one.words, one.intakes, one.items, formatBytes(one.bytes), one.selects, one.late]),
    );
  }
  return EXIT.done;
}
