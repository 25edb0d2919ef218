import type { RebuildReport } from '@tally/contract';
import type { Command } from 'commander';
import type { Frame } from '../cli/frame.js';
import { EXIT, jsonLine, printable, say, WHO } from '../cli/output.js';
import { type House, rebuildingFrom } from '../house/index.js';
import { beginRebuild, goOnRebuilding, lookAtDrives } from './rebuilding.js';

const NAMED = 20;
const count = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;
const DIFFERS: Readonly<Record<RebuildReport['differences'][number]['what'], string>> = {
  'stands elsewhere': 'is named by an older record; a newer one says that it stands elsewhere',
  'is no more': 'is named by the record there, and no more by the newer one of another place',
  'is not recorded': 'is not in the record there, but in the newer one of another place',
};

/** The logbook rebuilt from a drive. */
export function addRebuildingCommands(program: Command, frame: Frame<House>): void {
  program
    .command('rebuild')
    .description('rebuilds the logbook of a new house from the records on these places; what was begun goes on')
    .argument('<place...>', 'ids of the places, as the settings name them')
    .option('--dry', 'only says what stands there')
    .option('--json', 'as a line of JSON')
    .action((placeIds: string[], options: { dry?: boolean; json?: boolean }) =>
      frame.withHouse(async (house) => {
        const isGoing = (await rebuildingFrom(house.db)) !== null;
        if (options.dry || !isGoing) {
          const found = await (options.dry
            ? lookAtDrives(house, placeIds, frame.signal)
            : beginRebuild(house, placeIds, WHO, frame.signal));
          if (options.json && options.dry) jsonLine(found);
          else if (!options.json) {
            say(
              `${printable(found.houseName || 'A house')}: ${count(found.intakes, 'intake')}, the last ${found.newest ?? ''}; ${found.hasHouseRecord ? 'with' : 'without'} its lists of people, assignments and words.`,
            );
            if (found.others)
              say(`${count(found.others, 'intake')} of other houses there, too: those records stay, and are not taken in.`);
          }
          if (options.dry) return EXIT.done;
        }
        const report = await goOnRebuilding(house, WHO, frame.signal);
        if (!report) {
          say('It is being rebuilt by the server: the desk says when it is done.');
          return EXIT.attention;
        }
        if (options.json) jsonLine(report);
        else {
          sayReport(report);
          say('Every byte of these places is read next by the server, and what differs is told on the Drive page.');
        }
        return report.missing || report.out || report.refused.length || report.differences.length ? EXIT.attention : EXIT.done;
      }),
    );
}

/** What was taken in, for people. */
export function sayReport({ intakes, items, out, missing, refused, differences }: RebuildReport): void {
  say(`${count(intakes, 'intake')} with ${count(items, 'file')} ${intakes === 1 ? 'is' : 'are'} in the log again.`);
  if (missing) say(`${count(missing, 'copy', 'copies')} not where the records say, or of another size: check the drive.`);
  if (out) say(`${count(out, 'file')} left out: another one has the name. Check the drive, and add them to the log.`);
  for (const { intake, why } of refused.slice(0, NAMED)) say(`${intake}: ${why}.`);
  for (const { intake, place, path, what } of differences.slice(0, NAMED))
    say(`${intake}, ${place}: ${printable(path)} ${DIFFERS[what]}.`);
  if (differences.length > NAMED) say(`… and ${differences.length - NAMED} more.`);
}
