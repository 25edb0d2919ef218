import {
  CreditChange,
  HabitAnswers,
  HabitView,
  LIST_CHANGE,
  type LocationView,
  NewHabit,
  type RecordedCredit,
  type TermsView,
} from '@tally/contract';
import { BELONGINGS } from '@tally/core/credit';
import { partsOfTyped } from '@tally/core/words';
import type { Command } from 'commander';
import { z } from 'zod';
import type { Frame } from '../cli/frame.js';
import { EXIT, jsonLine, say, table, WHO, WrongUse } from '../cli/output.js';
import { inTransaction } from '../db/database.js';
import { cardOfLabel, type House, intakeNumbered } from '../house/index.js';
import { addToList, correctInList, houseList, slipIds, wordsCalled } from '../people/index.js';
import { itemsOf, itemsThatFit } from '../seeing/index.js';
import { changeCredit } from './credit.js';
import { recordedCredit } from './recorded.js';
import { filedItems, wordsNow } from './store/credit.js';

const collect = (value: string, before: string[]) => [...before, value];

/** `tally credit` and `tally habit` */
export function addSlipCommands(program: Command, frame: Frame<House>): void {
  program
    .command('credit')
    .description('show whose items are and what may be done with them, or change it; filed items too')
    .argument('<what...>', 'the number of an intake, with patterns of items if not all are meant; or paths of filed files')
    .option(
      '--set <field=value>',
      `${Object.keys(SETS).join(', ')}; words and pictured with + or - before each; repeatable`,
      collect,
      [],
    )
    .option('--json', 'one JSON object an item')
    .action((what: string[], options: { set: string[]; json?: boolean }) =>
      frame.withHouse((house) => creditCommand(house, what, options)),
    );

  const habit = program.command('habit').description('answers that slips give by themselves');
  habit
    .command('list')
    .option('--json', 'one JSON object a line')
    .action((options: { json?: boolean }) => frame.withHouse((house) => habitList(house, options)));
  for (const does of ['add', 'change'] as const)
    habit
      .command(does)
      .argument('<name>')
      .option('--belongs <to>', 'house, contributor:CODE, assignment:SLUG, card:LABEL or reader:NAME')
      .option(
        '--answer <field=value>',
        `${Object.keys(ANSWERS).join(', ')}; an empty value takes it out; repeatable`,
        collect,
        [],
      )
      .action((name: string, options: { belongs?: string; answer: string[] }) =>
        frame.withHouse((house) => habitCommand(house, does, name, options)),
      );
  for (const does of ['retire', 'back'] as const)
    habit
      .command(does)
      .argument('<name>')
      .action((name: string) =>
        frame.withHouse(async (house) => {
          const { id } = await habitCalled(house, name);
          await correctInList(house, 'habits', id, { retired: does === 'retire' }, WHO);
          say(`${name} ${does === 'retire' ? 'is retired' : 'is back'}.`);
          return EXIT.done;
        }),
      );
}

type Change = Omit<z.input<typeof CreditChange>, 'itemIds'>;
type Setting = (house: House, value: string) => Promise<Change> | Change;

/** What may be said of credit on the command line; an empty value leaves it to the slip. */
const SETS: Readonly<Record<string, Setting>> = {
  credit: (_house, value) => ({ creditLine: value || null }),
  copyright: (_house, value) => ({ copyrightNotice: value || null }),
  terms: async (house, value) => ({ termsId: value ? await termsCalled(house, value) : null }),
  location: async (house, value) => ({ locationId: value ? await locationCalled(house, value) : null }),
  contributor: async (house, value) => ({
    contributorId: value ? ((await slipIds(house, { contributor: value })).contributorId ?? null) : null,
  }),
  description: (_house, value) => ({ description: value }),
  words: async (house, value) => {
    const { add, remove } = signed(value);
    const ids = remove.length ? await wordsNow(house.db, remove) : [];
    return { ...(add.length ? { addWords: add } : {}), ...(ids.length ? { removeWordIds: ids } : {}) };
  },
  pictured: async (house, value) => {
    const { add, remove } = signed(value);
    const people = (await houseList(house.db, 'pictured')) as { id: number; name: string }[];
    const removePicturedIds = remove.map((name) => {
      const person = people.find((one) => one.name.toLowerCase() === name.toLowerCase());
      if (!person) throw new WrongUse(`Nobody called ${name} is in the list of pictured people.`);
      return person.id;
    });
    return { ...(add.length ? { addPictured: add } : {}), ...(removePicturedIds.length ? { removePicturedIds } : {}) };
  },
};

/** `+reeds, planting, -dusk`: what is added and what is taken out. */
function signed(value: string): { add: string[]; remove: string[] } {
  const parts = partsOfTyped(value);
  return {
    add: parts.filter((part) => !part.startsWith('-')).map((part) => part.replace(/^\+\s*/, '')),
    remove: parts.filter((part) => part.startsWith('-')).map((part) => part.slice(1).trim()),
  };
}

const split = (said: string): [string, string] => {
  const at = said.indexOf('=');
  if (at < 1) throw new WrongUse(`Say ${said || 'it'} as FIELD=VALUE.`);
  return [said.slice(0, at).trim(), said.slice(at + 1).trim()];
};

async function creditCommand(house: House, what: string[], options: { set: string[]; json?: boolean }): Promise<number> {
  const items = await itemsMeant(house, what);
  if (options.set.length) {
    let change: Change = {};
    for (const said of options.set) {
      const [field, value] = split(said);
      const set = SETS[field];
      if (!set) throw new WrongUse(`There is no field ${field}: there are ${Object.keys(SETS).join(', ')}.`);
      change = { ...change, ...(await set(house, value)) };
    }
    const parsed = CreditChange.safeParse({ itemIds: items.map(({ id }) => id), ...change });
    if (!parsed.success) throw new WrongUse(z.prettifyError(parsed.error));
    const answer = await changeCredit(house, parsed.data, WHO);
    if (!options.json) say(`${answer.items} items changed; ${answer.following} records beside the files are written anew.`);
  }
  if (options.set.length && !options.json) return EXIT.done;
  const rows = await creditsOf(house, items);
  if (options.json) for (const { path, credit } of rows) jsonLine({ path, ...credit });
  else
    table(
      ['item', 'credit', 'terms', 'words', 'location', 'shown'],
      rows.map(({ path, credit }) => [
        ...[path, credit.creditLine, credit.terms?.name ?? 'nothing agreed: ask first', credit.keywords.join(', ')],
        ...[credit.location?.name ?? null, credit.personShown.map(({ name, consent }) => `${name} (${consent})`).join(', ')],
      ]),
    );
  return rows.some(({ credit }) => credit.personShown.some(({ consent }) => consent === 'no')) ? EXIT.attention : EXIT.done;
}

interface Meant {
  readonly id: number;
  readonly intakeId: number;
  readonly path: string;
}

async function itemsMeant(house: House, [first, ...rest]: string[]): Promise<Meant[]> {
  if (/^\d{4}-\d+$/.test(first!)) {
    const intakeId = await intakeNumbered(house, first!);
    const items = rest.length ? await itemsThatFit(house, intakeId, rest) : await itemsOf(house.db, intakeId);
    return items
      .filter(({ setAside }) => setAside === null)
      .map(({ id, path, filedAs }) => ({ id, intakeId, path: filedAs ?? path }));
  }
  const roots = house.settings.places.map(({ root }) => `${root}/`);
  const paths = [first!, ...rest].map((path) => path.slice(roots.find((root) => path.startsWith(root))?.length ?? 0));
  const found = await filedItems(house.db, paths);
  const missing = paths.find((path) => !found.some((one) => one.path === path));
  if (missing !== undefined) throw new WrongUse(`${missing} is no filed item (and no number of an intake).`);
  return found;
}

async function creditsOf(house: House, items: readonly Meant[]): Promise<{ path: string; credit: RecordedCredit }[]> {
  const rows = [];
  const known = new Map<number, Awaited<ReturnType<typeof recordedCredit>>>();
  for (const { id, intakeId, path } of items) {
    const credits = known.get(intakeId) ?? (await recordedCredit(house, intakeId));
    known.set(intakeId, credits);
    const credit = credits(id);
    if (credit) rows.push({ path, credit });
  }
  return rows;
}

async function termsCalled(house: House, name: string): Promise<number> {
  const all = (await houseList(house.db, 'terms')) as TermsView[];
  const found = all.find((terms) => terms.name.toLowerCase() === name.toLowerCase());
  if (!found)
    throw new WrongUse(`There are no terms called ${name}: there are ${all.map((terms) => terms.name).join(', ') || 'none'}.`);
  return found.id;
}

async function locationCalled(house: House, name: string): Promise<number> {
  const all = (await houseList(house.db, 'locations')) as LocationView[];
  const found = all.find((location) => location.name.toLowerCase() === name.toLowerCase());
  if (!found) throw new WrongUse(`There is no location called ${name}.`);
  return found.id;
}

type Answering = (house: House, value: string) => Promise<object> | object;

const ANSWERS: Readonly<Record<string, Answering>> = {
  contributor: (house, value) => slipIds(house, { contributor: value }),
  assignment: (house, value) => slipIds(house, { assignment: value }),
  words: async (house, value) => ({
    wordIds: await inTransaction(house.db, (tx) => wordsCalled(tx, house, partsOfTyped(value))),
  }),
  location: async (house, value) => ({ locationId: await locationCalled(house, value) }),
  terms: async (house, value) => ({ termsId: await termsCalled(house, value) }),
  credit: (_house, value) => ({ creditLine: value }),
  copyright: (_house, value) => ({ copyrightNotice: value }),
  take: (_house, value) => ({ take: value }),
  file: (_house, value) => ({ fileByItself: value === 'yes' }),
};
const FIELD_OF: Readonly<Record<string, keyof z.infer<typeof HabitAnswers>>> = {
  ...{ contributor: 'contributorId', assignment: 'assignmentId', words: 'wordIds', location: 'locationId', terms: 'termsId' },
  ...{ credit: 'creditLine', copyright: 'copyrightNotice', take: 'take', file: 'fileByItself' },
};

async function habitCalled(house: House, name: string): Promise<HabitView> {
  const all = z.array(HabitView).parse(await houseList(house.db, 'habits'));
  const found = all.find((habit) => habit.name.toLowerCase() === name.toLowerCase());
  if (!found) throw new WrongUse(`There is no habit called ${name}.`);
  return found;
}

async function habitList(house: House, { json }: { json?: boolean }): Promise<number> {
  const all = z.array(HabitView).parse(await houseList(house.db, 'habits'));
  if (json) all.forEach(jsonLine);
  else
    table(
      ['habit', 'belongs to', 'answers', ''],
      all.map(({ name, belongs, ofName, answers, retired }) => [
        name,
        `${belongs} ${ofName}`.trim(),
        JSON.stringify(answers),
        retired ? 'retired' : '',
      ]),
    );
  return EXIT.done;
}

async function habitCommand(
  house: House,
  does: 'add' | 'change',
  name: string,
  options: { belongs?: string; answer: string[] },
): Promise<number> {
  const before = does === 'change' ? await habitCalled(house, name) : null;
  const answers: Record<string, unknown> = { ...before?.answers };
  for (const said of options.answer) {
    const [field, value] = split(said);
    const answer = ANSWERS[field];
    if (!answer) throw new WrongUse(`There is no answer ${field}: there are ${Object.keys(ANSWERS).join(', ')}.`);
    if (value === '') Reflect.deleteProperty(answers, FIELD_OF[field]!);
    else Object.assign(answers, await answer(house, value));
  }
  const belonging = options.belongs ? await belongingOf(house, options.belongs) : before ? {} : { belongs: 'house', of: '' };
  const schema = before ? LIST_CHANGE.habits : NewHabit;
  const parsed = schema.safeParse({ ...(before ? {} : { name }), ...belonging, answers });
  if (!parsed.success) throw new WrongUse(z.prettifyError(parsed.error));
  if (before) await correctInList(house, 'habits', before.id, parsed.data, WHO);
  else await addToList(house, 'habits', parsed.data, WHO);
  say(`${name} is kept.`);
  return EXIT.done;
}

async function belongingOf(house: House, said: string): Promise<{ belongs: string; of: string }> {
  const [belongs, of] = [said.split(':')[0]!, said.slice(said.indexOf(':') + 1)];
  if (said === 'house') return { belongs: 'house', of: '' };
  if (!said.includes(':') || !(BELONGINGS as readonly string[]).includes(belongs))
    throw new WrongUse('--belongs is house, contributor:CODE, assignment:SLUG, card:LABEL or reader:NAME.');
  if (belongs === 'contributor') return { belongs, of: String((await slipIds(house, { contributor: of })).contributorId) };
  if (belongs === 'assignment') return { belongs, of: String((await slipIds(house, { assignment: of })).assignmentId) };
  if (belongs === 'reader') return { belongs, of };
  const card = await cardOfLabel(house.db, of);
  if (!card) throw new WrongUse(`There is no card with the label ${of}.`);
  return { belongs, of: String(card.id) };
}
