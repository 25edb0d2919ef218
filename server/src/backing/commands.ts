import { formatBytes } from '@tally/core/logbook';
import type { Command } from 'commander';
import { resolve } from 'node:path';
import type { Frame } from '../cli/frame.js';
import { EXIT, printable, say, WHO } from '../cli/output.js';
import { type House, record } from '../house/index.js';
import { meetPlaces } from '../driving/index.js';
import { bringBack, lookAtBackup } from './bringing-back.js';
import { destinationsOf } from './destinations.js';
import { drill } from './drill.js';
import { backUp } from './making.js';
import { passphraseOf } from './passphrase.js';
import { unknownRecords } from './unknown-records.js';

const NAMED = 20;

/** The house backed up, and brought back. @param takeInSince takes in what was filed since, and says so */
export function addBackingCommands(
  program: Command,
  frame: Frame<House>,
  takeInSince: (house: House, signal: AbortSignal) => Promise<void>,
): void {
  program
    .command('backup')
    .description('backs the house up: its database, receipts, what was handed in, its settings without secrets')
    .option('--to <folder...>', 'folders, or ids of places; else where the settings say')
    .option('--drill', 'and tries it: brings it back into a database that is thrown away, and compares')
    .action((options: { to?: string[]; drill?: boolean }) =>
      frame.withHouse(async (house) => {
        const given = options.to?.map((to) => (house.settings.places.some(({ id }) => id === to) ? to : resolve(to)));
        const passphrase = await passphraseOf(house.settings);
        const made = await backUp(house, await destinationsOf(house, given), { who: WHO, passphrase, signal: frame.signal });
        for (const { to, folder, bytes, problem } of made)
          say(
            problem === null
              ? `${to}: ${printable(folder ?? '')} (${formatBytes(bytes)}), read back`
              : `${to}: ${printable(problem)}`,
          );
        const good = made.find(({ folder }) => folder !== null);
        if (options.drill && good?.folder) say(await drill(house.settings, good.folder, passphrase, frame.signal));
        return made.some(({ problem }) => problem !== null) || !good ? EXIT.attention : EXIT.done;
      }),
    );
  program
    .command('bring-back')
    .description('brings a backup back into the empty database of the settings; without --sure it only reads and proves it')
    .argument('<folder>', 'of the backup')
    .option('--sure', 'does it')
    .action(async (given: string, options: { sure?: boolean }) => {
      const came = { back: false };
      await frame.withSettings(async (settings) => {
        const folder = resolve(given);
        const ask = { settings, folder, passphrase: await passphraseOf(settings), signal: frame.signal };
        const whole = await lookAtBackup(ask);
        const { house, madeAt, rows, program: version } = whole.manifest;
        const sizes = `${rows['intake'] ?? 0} intakes, ${rows['filed_item'] ?? 0} filed items, ${rows['event'] ?? 0} events`;
        say(
          `${printable(house)}, backed up on ${madeAt} by version ${printable(version)}: ${sizes}, ${formatBytes(whole.bytes)}. It is whole.`,
        );
        if (!options.sure) {
          say('Nothing was done. It is brought back with --sure.');
          return EXIT.attention;
        }
        const { others } = await bringBack(ask, whole);
        for (const path of others.slice(0, NAMED))
          say(`${printable(path)} stands in the data folder already, and is another file: it stays.`);
        came.back = true;
        return EXIT.done;
      });
      if (came.back) await frame.withHouse((house) => meetTheDrive(house, takeInSince, frame.signal));
    });
}

/**
 * After a backup was brought back: what was filed since stands on the places with its records, and is taken in again; what else
 * stands there that the log does not know is told, and none of those numbers is drawn.
 */
async function meetTheDrive(
  house: House,
  takeInSince: (house: House, signal: AbortSignal) => Promise<void>,
  signal: AbortSignal,
): Promise<number> {
  const text = 'A backup was brought back into this database.';
  await record(house.db, { at: house.clock(), kind: 'backup', intakeId: null, who: WHO, text });
  await meetPlaces(house, signal);
  say('The house is back. Everybody signs in anew.');
  await takeInSince(house, signal);
  const unknown = await unknownRecords(house, signal);
  for (const { place, folder, number, items } of unknown.slice(0, NAMED))
    say(`${place}: ${printable(folder || 'the root')} holds intake ${number} (${items} files), which the log does not know.`);
  if (unknown.length > NAMED) say(`… and ${unknown.length - NAMED} more.`);
  if (unknown.length)
    say(
      'They are of another house, or cannot be taken in. Nothing of them is replaced: check the drive (tally drive check), and adopt them.',
    );
  return unknown.length ? EXIT.attention : EXIT.done;
}
