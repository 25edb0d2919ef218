import { AuditQuery } from '@tally/contract';
import type { Command } from 'commander';
import { EXIT, jsonLine, print, say, table, WrongUse } from '../cli/output.js';
import type { Frame } from '../cli/frame.js';
import type { House } from '../house/index.js';
import { chainLog } from './chaining.js';
import { auditPage, auditRows } from './looking.js';
import { verifyLog } from './verifying.js';

interface Options {
  readonly kind?: string;
  readonly who?: string;
  readonly from?: string;
  readonly to?: string;
  readonly limit: string;
  readonly json?: boolean;
  readonly csv?: boolean;
}

/** What was recorded, for whoever is answerable. */
export function addAuditCommands(program: Command, frame: Frame<House>): void {
  program
    .command('audit')
    .description('who came, who may what, what left the house, what was cleared and mended; newest first')
    .option('--kind <kind>', 'one kind of thing only')
    .option('--who <name>', 'by this one only')
    .option('--from <day>', 'from this day on, yyyy-MM-dd')
    .option('--to <day>', 'until this day')
    .option('--limit <n>', 'how many lines', '50')
    .option('--json', 'one JSON object a line')
    .option('--csv', 'every line that is found, as CSV')
    .action((options: Options) =>
      frame.withHouse(async (house) => {
        const { json, csv, ...ask } = options;
        const query = AuditQuery.safeParse(ask);
        if (!query.success)
          throw new WrongUse(query.error.issues.map(({ path, message }) => `--${path.join('.')}: ${message}`).join('\n'));
        if (csv) for await (const piece of auditRows(house, query.data)) print(piece);
        else {
          const { events } = await auditPage(house, query.data);
          if (json) events.forEach(jsonLine);
          else
            table(
              ['time', 'kind', 'who', 'what'],
              events.map(({ at, kind, who, text }) => [at, kind, who, text]),
            );
        }
        return EXIT.done;
      }),
    );
}

/** `tally log --verify`: is the log what it was? */
export async function verifyCommand(house: House, json: boolean, signal: AbortSignal): Promise<number> {
  await chainLog(house, signal);
  const verdict = await verifyLog(house);
  if (json) jsonLine(verdict);
  else {
    verdict.notes.forEach(say);
    verdict.problems.forEach(say);
    const { events, chained, heads, waiting, erased } = verdict;
    const rest = waiting ? ` ${waiting} of the last moments are not chained yet.` : '';
    const names = erased ? ` From ${erased} of them a name was erased since, as is told.` : '';
    if (!verdict.problems.length)
      say(`All ${chained} of ${events} events are what they were, and ${heads} heads on the drive agree.${names}${rest}`);
  }
  return verdict.problems.length ? EXIT.attention : EXIT.done;
}
