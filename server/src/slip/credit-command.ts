import { CreditChange, type RecordedCredit } from '@tally/contract';
import { STANDARDS } from '@tally/core/fields';
import { partsOfTyped } from '@tally/core/words';
import { z } from 'zod';
import { EXIT, jsonLine, say, table, WHO, WrongUse } from '../cli/output.js';
import { changeSaid, type Setting } from '../cli/said.js';
import { type House, intakeNumbered } from '../house/index.js';
import { houseList, locationCalled, slipIds, termsCalled } from '../people/index.js';
import { itemsOf, itemsThatFit } from '../seeing/index.js';
import { changeCredit } from './credit.js';
import { recordedCredit } from './recorded.js';
import { filedItems, wordsNow } from './store/credit.js';

type Change = Omit<z.input<typeof CreditChange>, 'itemIds'>;

/** What may be said of credit on the command line; an empty value leaves it to the slip. */
const SETS: Readonly<Record<string, Setting<House, Change>>> = {
  credit: (_house, value) => ({ creditLine: value || null }),
  copyright: (_house, value) => ({ copyrightNotice: value || null }),
  terms: async (house, value) => ({ termsId: value ? await termsCalled(house, value) : null }),
  location: async (house, value) => ({ locationId: value ? await locationCalled(house, value) : null }),
  contributor: async (house, value) => ({
    contributorId: value ? ((await slipIds(house, { contributor: value })).contributorId ?? null) : null,
  }),
  description: (_house, value) => ({ description: value }),
  ours: (_house, value) => ({ standing: standing(value, 'ours') }),
  theirs: (_house, value) => ({ standing: standing(value, 'theirs') }),
  words: async (house, value) => {
    const { add, remove } = signed(value);
    const ids = remove.length ? await wordsNow(house.db, remove) : [];
    return { ...(add.length ? { addWords: add } : {}), ...(ids.length ? { removeWordIds: ids } : {}) };
  },
  pictured: async (house, value) => {
    const { add, remove } = signed(value);
    const people = await houseList(house.db, 'pictured');
    const removePicturedIds = remove.map((name) => {
      const person = people.find((one) => one.name.toLowerCase() === name.toLowerCase());
      if (!person) throw new WrongUse(`Nobody called ${name} is in the list of pictured people.`);
      return person.id;
    });
    return { ...(add.length ? { addPictured: add } : {}), ...(removePicturedIds.length ? { removePicturedIds } : {}) };
  },
};

/** `creator, credit line`: of which properties what the house says (or the file) stands. @throws WrongUse */
function standing(value: string, whose: 'ours' | 'theirs'): Change['standing'] {
  const known = (name: string) =>
    STANDARDS.find((one) => [one.name, one.field].some((own) => own.toLowerCase() === name.toLowerCase()));
  return Object.fromEntries(
    partsOfTyped(value).map((name) => {
      const found = known(name);
      if (!found) throw new WrongUse(`There is no property ${name}: there are ${STANDARDS.map((one) => one.name).join(', ')}.`);
      return [found.field, whose];
    }),
  );
}

/** The names of what may be said. */
export const CREDIT_SETS = Object.keys(SETS);

/** `+reeds, planting, -dusk`: what is added and what is taken out. */
function signed(value: string): { add: string[]; remove: string[] } {
  const parts = partsOfTyped(value);
  return {
    add: parts.filter((part) => !part.startsWith('-')).map((part) => part.replace(/^\+\s*/, '')),
    remove: parts.filter((part) => part.startsWith('-')).map((part) => part.slice(1).trim()),
  };
}

/** `tally credit` */
export async function creditCommand(house: House, what: string[], options: { set: string[]; json?: boolean }): Promise<number> {
  const items = await creditItemsMeant(house, what);
  if (options.set.length) {
    const change = await changeSaid(house, SETS, options.set);
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

/** The items that somebody named: of an intake by number, or filed files by their paths. @throws WrongUse */
export async function creditItemsMeant(house: House, [first, ...rest]: string[]): Promise<Meant[]> {
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
