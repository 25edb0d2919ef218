import { EXIT, say, WHO, WrongUse } from '../cli/output.js';
import picomatch from 'picomatch';
import { FootageRole, Verdict } from '@tally/contract';
import { z } from 'zod';
import { judgeItems, splitItems } from './judge.js';
import { pictureAhead } from './picture-ahead.js';
import { takeItems } from './take.js';
import { type ItemRow, itemsOf } from './store/items.js';
import { type House, intakeNumbered } from '../house/index.js';
import { type Slip, slipIds } from '../people/index.js';

/** Items of an intake whose paths fit one of these patterns (`DCIM/**`, `*.MP4`). @throws WrongUse when none does. */
export async function itemsThatFit(house: House, intakeId: number, patterns: readonly string[]): Promise<ItemRow[]> {
  // A pattern without a folder is about names, wherever they lie.
  const anywhere = patterns.map((pattern) => (pattern.includes('/') ? pattern : `**/${pattern}`));
  const fits = picomatch(anywhere, { nocase: true, dot: true });
  const items = (await itemsOf(house.db, intakeId)).filter((item) => item.setAside === null && fits(item.path));
  if (!items.length) throw new WrongUse(`No item of this intake fits ${patterns.join(' ')}.`);
  return items;
}

export const said = (count: number, words: string) => say(`${count} ${count === 1 ? 'item' : 'items'}: ${words}`);

/** `tally take|leave NUMBER PATTERN…` */
export async function takeCommand(house: House, number: string, patterns: string[], taken: boolean): Promise<number> {
  const id = await intakeNumbered(house, number);
  const items = await itemsThatFit(house, id, patterns);
  await takeItems(house, id, { itemIds: items.map((item) => item.id), taken });
  said(items.length, taken ? 'taken' : 'left');
  return EXIT.done;
}

/** `tally split NUMBER PATTERN… --assignment SLUG --contributor CODE` */
export async function splitCommand(house: House, number: string, patterns: string[], slip: Slip): Promise<number> {
  const change = await slipIds(house, slip);
  if (!Object.keys(change).length) throw new WrongUse('Say --assignment, --contributor or both.');
  const id = await intakeNumbered(house, number);
  const items = await itemsThatFit(house, id, patterns);
  const count = await splitItems(house, id, { itemIds: items.map((item) => item.id), ...change }, WHO);
  said(count, [slip.assignment, slip.contributor].filter(Boolean).join(', '));
  return count ? EXIT.done : EXIT.attention;
}

/** `tally judge NUMBER PATTERN… --verdict select|reshoot|hold|none --description TEXT --role main|supporting|none --profile NAME` */
export async function judgeCommand(
  house: House,
  number: string,
  patterns: string[],
  options: { verdict?: string; description?: string; role?: string; profile?: string },
): Promise<number> {
  const verdict = Verdict.or(z.literal('none')).optional().safeParse(options.verdict);
  if (!verdict.success) throw new WrongUse('--verdict is select, reshoot, hold or none.');
  const role = FootageRole.or(z.literal('none')).optional().safeParse(options.role);
  if (!role.success) throw new WrongUse('--role is main, supporting or none.');
  if ([options.verdict, options.description, options.role, options.profile].every((option) => option === undefined))
    throw new WrongUse('Say --verdict, --description, --role or --profile.');
  const id = await intakeNumbered(house, number);
  const items = await itemsThatFit(house, id, patterns);
  await judgeItems(house, id, {
    itemIds: items.map((item) => item.id),
    ...(verdict.data ? { verdict: verdict.data === 'none' ? null : verdict.data } : {}),
    ...(role.data ? { role: role.data === 'none' ? null : role.data } : {}),
    ...(options.profile !== undefined ? { profile: options.profile.trim().slice(0, 40) } : {}),
    ...(options.description !== undefined ? { description: options.description.trim().slice(0, 500) } : {}),
  });
  said(items.length, [options.verdict, options.description, options.role, options.profile].filter(Boolean).join(', '));
  return EXIT.done;
}

/** `tally previews`: makes every preview that is still missing, for a laptop that is back from the road. */
export async function previewsCommand(house: House, signal: AbortSignal): Promise<number> {
  let made = 0;
  for (let some = -1; some !== 0 && !signal.aborted; made += some) some = await pictureAhead(house);
  say(`${made} previews made.`);
  return EXIT.done;
}
