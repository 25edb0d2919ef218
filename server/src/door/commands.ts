import { AccountChange, NewAccount, NewHandInLink } from '@tally/contract';
import { ROLES } from '@tally/core/rights';
import type { Command } from 'commander';
import { formatBytes } from '@tally/core/logbook';
import type { z } from 'zod';
import { EXIT, jsonLine, say, table, WHO, WrongUse } from '../cli/output.js';
import type { Frame } from '../cli/frame.js';
import type { House } from '../house/index.js';
import { slipIds } from '../people/index.js';
import { changeAccount, endSessions, giveCode, makeAccount } from './accounts.js';
import { baseOf, endLink, makeLink } from './links.js';
import { accountsOf } from './store/accounts.js';
import { linksBefore } from './store/links.js';

const ROLES_HERE = ROLES.join(', ');

interface Bound {
  readonly contributor?: string;
  readonly kind?: string;
  readonly assignment?: string;
  readonly bytes?: string;
  readonly files?: string;
}

const bound = (command: Command): Command =>
  command
    .option('--contributor <code>', 'only this one hands in')
    .option('--kind <kind>', 'only contributors of this kind, in the house’s words')
    .option('--assignment <slug>', 'only for this assignment')
    .option('--bytes <bytes>', 'at most so many bytes altogether')
    .option('--files <files>', 'at most so many files altogether');

/** What a schema says is wrong, in words for whoever typed. */
function said<T extends z.ZodType>(schema: T, value: unknown): z.output<T> {
  const parsed = schema.safeParse(value);
  if (!parsed.success)
    throw new WrongUse(parsed.error.issues.map(({ path, message }) => `${path.join('.')}: ${message}`).join('\n'));
  return parsed.data;
}

async function boundsSaid(house: House, options: Bound) {
  const ids = await slipIds(house, options);
  return {
    ...ids,
    ...(options.kind === undefined ? {} : { ofKind: options.kind }),
    ...(options.bytes === undefined ? {} : { quotaBytes: Number(options.bytes) }),
    ...(options.files === undefined ? {} : { quotaFiles: Number(options.files) }),
  };
}

/** An account by the name that signs in. @throws WrongUse when there is none. */
async function accountCalled(house: House, name: string): Promise<number> {
  const all = await accountsOf(house.db, house.clock());
  const found = all.find((one) => one.name.toLowerCase() === name.toLowerCase());
  if (!found) throw new WrongUse(`Nobody called ${name} signs in here.`);
  return found.id;
}

/** People who sign in, and links by which others hand in. */
export function addDoorCommands(program: Command, frame: Frame<House>): void {
  addPersonCommands(program.command('person').description('people who sign in'), frame);
  addLinkCommands(program.command('link').description('links by which others hand in'), frame);
}

function addPersonCommands(person: Command, frame: Frame<House>): void {
  person
    .command('list')
    .description('who signs in, what they may do, and where they are signed in now')
    .option('--json', 'one JSON object a line')
    .action((options: { json?: boolean }) =>
      frame.withHouse(async (house) => {
        const all = await accountsOf(house.db, house.clock());
        if (options.json) all.forEach(jsonLine);
        else
          table(
            ['name', 'role', 'signs in with', 'sessions', 'last seen'],
            all.map((one) => [
              `${one.name}${one.retired ? ' (retired)' : ''}`,
              one.role,
              [one.hasPassword ? 'password' : 'code', ...(one.secondFactor ? ['second factor'] : [])].join(', '),
              one.sessions,
              one.lastSeen ?? '',
            ]),
          );
        return EXIT.done;
      }),
    );
  bound(
    person
      .command('add')
      .description('add somebody: prints a code, with which they choose a password')
      .argument('<name>')
      .requiredOption('--role <role>', ROLES_HERE)
      .option('--until <time>', 'good until then, ISO 8601 in UTC')
      .option('--sees-persons', 'a looker: sees who is pictured, too'),
  ).action((name: string, options: Bound & { role: string; until?: string; seesPersons?: boolean }) =>
    frame.withHouse(async (house) => {
      const { role, until, seesPersons } = options;
      const more = { ...(until === undefined ? {} : { until }), ...(seesPersons ? { seesPersons } : {}) };
      const account = said(NewAccount, { name, role, ...more, ...(await boundsSaid(house, options)) });
      const { code, until: end } = await makeAccount(house, account, WHO);
      say(`${name} may sign in as ${account.role}. The code, shown only now and good until ${end}:`);
      say(code);
      return EXIT.done;
    }),
  );
  bound(
    person
      .command('change')
      .description('say something of somebody anew')
      .argument('<name>')
      .option('--name <name>', 'called so from now on')
      .option('--role <role>', ROLES_HERE)
      .option('--until <time>', 'good until then; none: for ever')
      .option('--sees-persons <yes>', 'yes or no')
      .option('--no-second-factor', 'takes a second factor away whose device is lost'),
  ).action(
    (
      name: string,
      options: Bound & { name?: string; role?: string; until?: string; seesPersons?: string; secondFactor: boolean },
    ) =>
      frame.withHouse(async (house) => {
        const { role, until, seesPersons, secondFactor } = options;
        const change = said(AccountChange, {
          ...(await boundsSaid(house, options)),
          ...(options.name === undefined ? {} : { name: options.name }),
          ...(role === undefined ? {} : { role }),
          ...(until === undefined ? {} : { until: until === 'none' ? null : until }),
          ...(seesPersons === undefined ? {} : { seesPersons: seesPersons === 'yes' }),
          ...(secondFactor ? {} : { secondFactor: false }),
        });
        if (!Object.keys(change).length) throw new WrongUse('Say what is to be another: see tally person change --help.');
        await changeAccount(house, await accountCalled(house, name), change, WHO);
        say(`${name} is changed.`);
        return EXIT.done;
      }),
  );
  for (const [does, words, retired] of [
    ['retire', 'nobody signs in as this one any more; sessions end at once', true],
    ['put-back', 'signs in again', false],
  ] as const)
    person
      .command(does)
      .description(words)
      .argument('<name>')
      .action((name: string) =>
        frame.withHouse(async (house) => {
          await changeAccount(house, await accountCalled(house, name), { retired }, WHO);
          say(`${name} ${retired ? 'is retired' : 'may sign in again'}.`);
          return EXIT.done;
        }),
      );
  person
    .command('code')
    .description('give somebody who forgot the password a code to choose another by; sessions end')
    .argument('<name>')
    .action((name: string) =>
      frame.withHouse(async (house) => {
        const { code, until } = await giveCode(house, await accountCalled(house, name), WHO);
        say(`The code for ${name}, shown only now and good until ${until}:`);
        say(code);
        return EXIT.done;
      }),
    );
  person
    .command('sign-out')
    .description('end every session of somebody')
    .argument('<name>')
    .action((name: string) =>
      frame.withHouse(async (house) => {
        const ended = await endSessions(house, await accountCalled(house, name), null, WHO);
        say(`${ended} ${ended === 1 ? 'session' : 'sessions'} of ${name} ended.`);
        return EXIT.done;
      }),
    );
}

function addLinkCommands(link: Command, frame: Frame<House>): void {
  bound(
    link
      .command('make')
      .description('make a link by which somebody may hand in, and nothing else')
      .option('--hours <hours>', 'how long it is good', '24')
      .option('--for <words>', 'what it is for: class 7b'),
  ).action((options: Bound & { hours: string; for?: string }) =>
    frame.withHouse(async (house) => {
      const ask = { hours: Number(options.hours), name: options.for ?? '', ...(await boundsSaid(house, options)) };
      const { address, expiresAt } = await makeLink(house, said(NewHandInLink, ask), baseOf(house, null), WHO);
      say(address);
      say(`It is good until ${expiresAt}, and shown only now.`);
      return EXIT.done;
    }),
  );
  link
    .command('list')
    .description('links, newest first, and what came in by each')
    .option('--json', 'one JSON object a line')
    .option('--limit <n>', 'how many', '50')
    .action((options: { json?: boolean; limit: string }) =>
      frame.withHouse(async (house) => {
        const limit = Number(options.limit);
        if (!Number.isInteger(limit) || limit < 1 || limit > 1000) throw new WrongUse('--limit is a number from 1 to 1000.');
        const links = await linksBefore(house.db, house.clock(), null, limit);
        if (options.json) links.forEach(jsonLine);
        else
          table(
            ['number', 'for', 'made by', 'good until', 'files', 'size', 'sessions'],
            links.map((one) => [
              ...[one.id, one.name, one.madeBy, one.revokedAt ? `ended ${one.revokedAt}` : one.expiresAt, one.files],
              ...[formatBytes(one.bytes), one.sessions],
            ]),
          );
        return EXIT.done;
      }),
    );
  link
    .command('end')
    .description('a link is good for nothing from now on, and who came by it is out')
    .argument('<number>')
    .action((number: string) =>
      frame.withHouse(async (house) => {
        if (!/^\d{1,9}$/.test(number)) throw new WrongUse('Say the number that tally link list shows.');
        await endLink(house, Number(number), WHO);
        say('The link is ended.');
        return EXIT.done;
      }),
    );
}
