import { own } from '@tally/core/lookup';
import { WrongUse } from './output.js';

/** What one FIELD of `--set FIELD=VALUE` changes. `H`: the house, as the rooms know it. */
export type Setting<H, C extends object = object> = (house: H, value: string) => C | Promise<C>;

/** For an option that may be given as often as needed. */
export const collect = (value: string, before: readonly string[]): string[] => [...before, value];

/** `FIELD=VALUE` in two. @throws WrongUse when it is none. */
export const fieldAndValue = (said: string): [field: string, value: string] => {
  const at = said.indexOf('=');
  if (at < 1) throw new WrongUse(`Say ${said || 'it'} as FIELD=VALUE.`);
  return [said.slice(0, at).trim(), said.slice(at + 1).trim()];
};

/** What all that was set changes, together. @throws WrongUse when a field is none of these. */
export async function changeSaid<H, C extends object>(
  house: H,
  fields: Readonly<Record<string, Setting<H, C>>>,
  said: readonly string[],
): Promise<Partial<C>> {
  let change: Partial<C> = {};
  for (const one of said) {
    const [field, value] = fieldAndValue(one);
    const set = own(fields, field);
    if (!set) throw new WrongUse(`There is no field ${field}: there are ${Object.keys(fields).join(', ')}.`);
    change = { ...change, ...(await set(house, value)) };
  }
  return change;
}
