import { HabitAnswers, HabitView, LIST_CHANGE, NewHabit } from '@tally/contract';
import { BELONGINGS } from '@tally/core/credit';
import { own } from '@tally/core/lookup';
import { partsOfTyped } from '@tally/core/words';
import { z } from 'zod';
import { EXIT, jsonLine, say, table, WHO, WrongUse } from '../cli/output.js';
import { fieldAndValue, type Setting } from '../cli/said.js';
import { inTransaction } from '../db/database.js';
import { cardOfLabel, type House } from '../house/index.js';
import { addToList, correctInList, houseList, locationCalled, slipIds, termsCalled, wordsCalled } from '../people/index.js';

export const ANSWERS: Readonly<Record<string, Setting<House>>> = {
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

export async function habitCalled(house: House, name: string): Promise<HabitView> {
  const all = await houseList(house.db, 'habits');
  const found = all.find((habit) => habit.name.toLowerCase() === name.toLowerCase());
  if (!found) throw new WrongUse(`There is no habit called ${name}.`);
  return found;
}

/** `tally habit list` */
export async function habitList(house: House, { json }: { json?: boolean }): Promise<number> {
  const all = await houseList(house.db, 'habits');
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

/** `tally habit add|change` */
export async function habitCommand(
  house: House,
  does: 'add' | 'change',
  name: string,
  options: { belongs?: string; answer: string[] },
): Promise<number> {
  const before = does === 'change' ? await habitCalled(house, name) : null;
  const answers: Record<string, unknown> = { ...before?.answers };
  for (const said of options.answer) {
    const [field, value] = fieldAndValue(said);
    const answer = own(ANSWERS, field);
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
