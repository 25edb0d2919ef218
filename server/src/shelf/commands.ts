import type { Command } from 'commander';
import { LogExport, LogQuery } from '@tally/contract';
import { formatBytes, LOG_COLUMNS } from '@tally/core/logbook';
import type { Frame } from '../cli/frame.js';
import { EXIT, jsonLine, print, table, WrongUse } from '../cli/output.js';
import { verifyCommand } from '../audit/index.js';
import { addBundleCommands } from './bundle-commands.js';
import { addFindCommands } from './find-commands.js';
import { exportLog, logLines } from './logbook.js';
import type { House } from '../house/index.js';

/** The logbook, the shelf and its bundles. */
export function addShelfCommands(program: Command, frame: Frame<House>): void {
  addFindCommands(program, frame);
  addBundleCommands(program, frame);
  program
    .command('log')
    .description('the logbook, newest first')
    .argument('[words...]', 'words that must be found')
    .option('--limit <n>', 'how many lines', '50')
    .option('--json', 'one JSON object a line')
    .option('--csv', 'every line that is found, as CSV')
    .option('--columns <names>', 'with --csv: columns with commas between')
    .option('--verify', 'is the log what it was? Compares every event with its chain, and that with the heads on the drive')
    .action((words: string[], options: { limit: string; json?: boolean; csv?: boolean; columns?: string; verify?: boolean }) =>
      frame.withHouse(async (house) => {
        if (options.verify) return verifyCommand(house, options.json ?? false, frame.signal);
        if (options.csv) {
          const ask = LogExport.safeParse({ words: words.join(' '), ...(options.columns ? { columns: options.columns } : {}) });
          if (!ask.success) throw new WrongUse(`--columns are some of ${LOG_COLUMNS.join(',')}.`);
          for await (const piece of exportLog(house, ask.data, 'csv')) print(piece);
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
}
