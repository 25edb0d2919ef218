import { WrongUse } from '../cli/output.js';
import type { House } from '../house/index.js';
import { houseList } from '../people/index.js';

/** @throws WrongUse when there are no such terms. */
export async function termsCalled(house: House, name: string): Promise<number> {
  const all = await houseList(house.db, 'terms');
  const found = all.find((terms) => terms.name.toLowerCase() === name.toLowerCase());
  if (!found)
    throw new WrongUse(`There are no terms called ${name}: there are ${all.map((terms) => terms.name).join(', ') || 'none'}.`);
  return found.id;
}

/** @throws WrongUse when there is no such location. */
export async function locationCalled(house: House, name: string): Promise<number> {
  const all = await houseList(house.db, 'locations');
  const found = all.find((location) => location.name.toLowerCase() === name.toLowerCase());
  if (!found) throw new WrongUse(`There is no location called ${name}.`);
  return found.id;
}

/** `FIELD=VALUE` in two. @throws WrongUse when it is none. */
export const fieldAndValue = (said: string): [field: string, value: string] => {
  const at = said.indexOf('=');
  if (at < 1) throw new WrongUse(`Say ${said || 'it'} as FIELD=VALUE.`);
  return [said.slice(0, at).trim(), said.slice(at + 1).trim()];
};
