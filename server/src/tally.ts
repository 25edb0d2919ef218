import { Command, CommanderError } from 'commander';
import { dirname, join, resolve } from 'node:path';
import { addAuditCommands } from './audit/commands.js';
import { addArrivingCommands } from './arriving/commands.js';
import { readAlone } from './arriving/index.js';
import { addClearingCommands } from './clearing/commands.js';
import type { Frame } from './cli/frame.js';
import { mustBeAllowed, nameOfCommand } from './cli/asks.js';
import { complain, EXIT, print, printingTo, say, WHO, WrongUse, type Terminal } from './cli/output.js';
import type { Clock } from './clock.js';
import { BackupError } from './backing/index.js';
import { compose } from './composition.js';
import { addBackingCommands } from './backing/commands.js';
import { addRebuildingCommands } from './rebuilding/commands.js';
import { sayReport, takeInSince } from './rebuilding/index.js';
import { addCounterCommands } from './counter/commands.js';
import { migrate } from './db/database.js';
import { authorityOf, certificatesFolder, fingerprintOf } from './http/certificates.js';
import { addDoorCommands } from './door/commands.js';
import { addFilingCommands } from './filing/commands.js';
import { Refusal, type House } from './house/index.js';
import { addKeepingCommands } from './keeping/commands.js';
import { addPeopleCommands } from './people/commands.js';
import { addProvingCommands } from './proving/commands.js';
import { addRuleCommands } from './rules/commands.js';
import { addSlipCommands } from './slip/commands.js';
import { addSeeingCommands } from './seeing/commands.js';
import { readSettings, SettingsError } from './settings.js';
import { addShelfCommands } from './shelf/commands.js';
import { addTendingCommands } from './tending/commands.js';
import { readStory, replayCommand } from './story.js';

/** What a run of the command line reaches of the outside. */
export interface Outside {
  readonly env: NodeJS.ProcessEnv;
  readonly cwd: string;
  readonly signal: AbortSignal;
  /** Where it prints; else to the streams of the process. */
  readonly terminal?: Terminal;
}

/** The commands of all rooms. */
export function addAllCommands(program: Command, frame: Frame<House>): void {
  for (const add of [addArrivingCommands, addSeeingCommands, addFilingCommands, addProvingCommands, addClearingCommands])
    add(program, frame);
  for (const add of [addCounterCommands, addShelfCommands, addKeepingCommands, addPeopleCommands, addSlipCommands])
    add(program, frame);
  for (const add of [addTendingCommands, addDoorCommands, addAuditCommands, addRebuildingCommands]) add(program, frame);
  addBackingCommands(program, frame, async (house, signal) => {
    const report = await takeInSince(house, WHO, signal);
    if (report.intakes) sayReport(report);
  });
  addRuleCommands(program, frame, readAlone);
}

/**
 * Runs the command line. @param args what was typed after `tally`.
 * @returns the exit code: 0 done, 1 something needs attention, 2 wrong use.
 */
export function tally(args: readonly string[], outside: Outside): Promise<number> {
  return outside.terminal ? printingTo(outside.terminal, () => run(args, outside)) : run(args, outside);
}

async function run(args: readonly string[], { env, cwd, signal }: Outside): Promise<number> {
  let exitCode: number = EXIT.done;
  const program = new Command('tally')
    .description('Reads cards, shows where everything goes, files it with proven copies, and keeps the log.')
    .option('--settings <file>', 'settings file; else TALLY_SETTINGS, ./tally.json, ./.tally/tally.json, the demo')
    .exitOverride()
    .configureOutput({ writeOut: print, writeErr: (text) => complain(text.trimEnd()) });
  const named = () => program.opts<{ settings?: string }>().settings;
  let asked = '';
  program.hook('preAction', (_program, action) => {
    asked = nameOfCommand(action);
  });

  /** The command line is a station of its own: it does the work itself. */
  const withHouse = async (work: (house: House) => Promise<number>, clock?: Clock): Promise<void> => {
    const { settings } = readSettings(env, cwd, named());
    if (asked !== 'replay') mustBeAllowed(asked, settings.commandLine);
    const station = `${settings.station} (command line)`.slice(0, 40);
    const log = env['TALLY_LOG'] ? settings.log : 'error';
    const composition = await compose({ ...settings, station, log }, { mountsOf: settings.station, ...(clock ? { clock } : {}) });
    try {
      exitCode = await work(composition.house);
    } finally {
      await composition.close();
    }
  };

  const frame: Frame<House> = {
    signal,
    withHouse: (work) => withHouse(work),
    withSettings: async (work) => {
      const { settings } = readSettings(env, cwd, named());
      mustBeAllowed(asked, settings.commandLine);
      exitCode = await work(settings);
    },
    alone: async (work) => {
      exitCode = await work();
    },
    // Reading needs no settings; with them, UTC times are shown in the house's zone.
    zone: () => {
      try {
        return readSettings(env, cwd, named()).settings.zone;
      } catch (error) {
        if (named()) throw error;
        return env['TALLY_ZONE'] ?? Intl.DateTimeFormat().resolvedOptions().timeZone;
      }
    },
  };

  addAllCommands(program, frame);
  program
    .command('certificate')
    .description('where the certificate of this house’s own authority lies, and its fingerprint')
    .action(async () => {
      const { settings } = readSettings(env, cwd, named());
      const pem = await authorityOf(settings.dataDir);
      if (pem === null) throw new WrongUse('This house made no certificate of its own: see docs/running.md.');
      say(join(certificatesFolder(settings.dataDir), 'authority.pem'));
      say(fingerprintOf(pem));
    });
  program
    .command('migrate')
    .description('bring the database up to date as its owner, and give the server its rights; the server then needs no more')
    .action(async () => {
      const { settings } = readSettings(env, cwd, named());
      if (settings.databaseAdminUrl === undefined)
        throw new WrongUse('Say whose database it is: TALLY_DATABASE_ADMIN_URL, or databaseAdminUrl in the settings.');
      await migrate(settings.databaseAdminUrl, settings.databaseUrl, settings.databaseBackupUrl);
      say('The database is as this version has it.');
    });
  program
    .command('replay', { hidden: true })
    .argument('<story>')
    .action(async (file: string) => {
      const story = await readStory(resolve(file));
      // The house begins on the day of its first intake, its rule included.
      const clock = { now: new Date(story.intakes[0]?.at ?? Date.now()) };
      const replay = (house: House) => replayCommand(house, story, dirname(resolve(file)), clock, signal);
      await withHouse(replay, () => clock.now);
    });

  try {
    await program.parseAsync([...args], { from: 'user' });
    return exitCode;
  } catch (error) {
    return codeFor(error);
  }
}

function codeFor(error: unknown): number {
  if (error instanceof CommanderError) return error.exitCode === 0 ? EXIT.done : EXIT.wrongUse;
  const { message } = error as Error;
  const away = message.includes('ECONNREFUSED') || (error as { code?: string }).code === 'ECONNREFUSED';
  complain(away ? 'tally: the database does not answer. Is it running (npm start, or npm run demo)?' : `tally: ${message}`);
  if (error instanceof Refusal) return EXIT.attention;
  return away || [WrongUse, SettingsError, BackupError].some((one) => error instanceof one) ? EXIT.wrongUse : EXIT.attention;
}
