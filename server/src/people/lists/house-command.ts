import { HouseCreditChange } from '@tally/contract';
import { CREDITED_KINDS, type CreditedKind, WRITING_BY_ITSELF, WRITINGS, type WritingOf } from '@tally/core/fields';
import { partsOfTyped } from '@tally/core/words';
import { z } from 'zod';
import { EXIT, jsonLine, say, table, WHO, WrongUse } from '../../cli/output.js';
import { changeSaid, type Setting } from '../../cli/said.js';
import type { House } from '../../house/index.js';
import { termsCalled } from '../named.js';
import { changeHouseCredit, houseCredit } from './house-credit.js';
import { houseList } from './lists.js';

type Change = z.input<typeof HouseCreditChange>;

const writing =
  (kind: CreditedKind): Setting<House, Change> =>
  (_house, value) => {
    if (!WRITINGS.includes(value as WritingOf))
      throw new WrongUse(`${kind} is ${WRITINGS.join(', ')}, not ${value || 'nothing'}.`);
    return { writing: { [kind]: value as WritingOf } };
  };

/** What may be said of the house on the command line; an empty value says nothing. */
const SETS: Readonly<Record<string, Setting<House, Change>>> = {
  credit: (_house, value) => ({ creditLine: value || null }),
  copyright: (_house, value) => ({ copyrightNotice: value || null }),
  terms: async (house, value) => ({ termsId: value ? await termsCalled(house, value) : null }),
  kinds: (_house, value) => ({ kinds: partsOfTyped(value) }),
  ...Object.fromEntries(CREDITED_KINDS.map((kind) => [kind, writing(kind)])),
};
export const HOUSE_SETS = Object.keys(SETS);

/** `tally house [--set FIELD=VALUE]`: what the house says of every item unless something nearer does. */
export async function houseCommand(house: House, options: { set: string[]; json?: boolean }): Promise<number> {
  if (options.set.length) {
    const change = await changeAll(house, options.set);
    const parsed = HouseCreditChange.safeParse(change);
    if (!parsed.success) throw new WrongUse(z.prettifyError(parsed.error));
    await changeHouseCredit(house, parsed.data, WHO);
    if (!options.json) say('The house says so from now on; the files follow.');
  }
  const { revision: _revision, termsId, ...says } = await houseCredit(house.db);
  const terms = (await houseList(house.db, 'terms')).find(({ id }) => id === termsId)?.name ?? null;
  if (options.json) jsonLine({ ...says, terms });
  else
    table(
      ['what', 'says'],
      [
        ...[['credit', says.creditLine] as const, ['copyright', says.copyrightNotice] as const, ['terms', terms] as const],
        ...CREDITED_KINDS.map((kind) => [`credit of ${kind}`, says.writing[kind] ?? WRITING_BY_ITSELF[kind]] as const),
        ['kinds of contributors', says.kinds.join(', ')] as const,
      ],
    );
  return EXIT.done;
}

/** What was said of single kinds adds up, to what the house says already. */
async function changeAll(house: House, said: readonly string[]): Promise<Change> {
  let change: Change = {};
  for (const one of said) {
    const { writing: more, ...rest } = await changeSaid(house, SETS, [one]);
    const before = change.writing ?? (await houseCredit(house.db)).writing;
    change = { ...change, ...rest, ...(more ? { writing: { ...before, ...more } } : {}) };
  }
  return change;
}
