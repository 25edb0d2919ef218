import { ASIDE_REASONS } from '@tally/core/life';
import { z } from 'zod';
import { EXIT, say, WHO, WrongUse } from '../cli/output.js';
import { type House, intakeNumbered } from '../house/index.js';
import { itemsThatFit } from '../seeing/index.js';
import { setAside } from './set-aside.js';

const Reason = z.enum([...ASIDE_REASONS, 'none']);

/** `tally aside NUMBER PATTERN… --reason unreadable|gone|"not ours"|none` */
export async function asideCommand(house: House, number: string, patterns: string[], reason: string): Promise<number> {
  const said = Reason.safeParse(reason);
  if (!said.success) throw new WrongUse(`--reason is ${[...ASIDE_REASONS, 'none'].join(', ')}.`);
  const id = await intakeNumbered(house, number);
  const items = await itemsThatFit(house, id, patterns);
  const change = { itemIds: items.map((item) => item.id), reason: said.data === 'none' ? null : said.data };
  const count = await setAside(house, id, change, WHO);
  say(`${count} ${count === 1 ? 'item' : 'items'} ${change.reason === null ? 'taken again' : `set aside: ${change.reason}`}`);
  return EXIT.done;
}
