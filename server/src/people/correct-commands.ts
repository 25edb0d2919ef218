import { AssignmentChange, ContributorChange } from '@tally/contract';
import { z } from 'zod';
import { EXIT, say, WHO, WrongUse } from '../cli/output.js';
import type { House } from '../house/index.js';
import { changeAssignment, changeContributor } from './correcting.js';
import { slipIds } from './named.js';

interface Retiring {
  readonly retire?: boolean;
  readonly back?: boolean;
}

/** `tally contributor CODE [--name NAME] [--code CODE] [--retire | --back]` */
export async function contributorCommand(
  house: House,
  code: string,
  { retire, back, ...said }: Retiring & { name?: string; code?: string },
): Promise<number> {
  const change = changed(ContributorChange, said, { retire, back });
  const { contributorId } = await slipIds(house, { contributor: code });
  await changeContributor(house, contributorId!, change, WHO);
  say(`${code.toUpperCase()} is corrected.`);
  return EXIT.done;
}

/** `tally assignment SLUG [--title …] [--slug …] [--from DAY] [--to DAY] [--place …] [--cards N] [--retire | --back]` */
export async function assignmentCommand(
  house: House,
  slug: string,
  {
    retire,
    back,
    cards,
    ...said
  }: Retiring & { title?: string; slug?: string; from?: string; to?: string; place?: string; cards?: string },
): Promise<number> {
  const expected = cards === undefined ? {} : { expectedCards: Number(cards) };
  const change = changed(AssignmentChange, { ...said, ...expected }, { retire, back });
  const { assignmentId } = await slipIds(house, { assignment: slug });
  await changeAssignment(house, assignmentId!, change, WHO);
  say(`${slug} is corrected.`);
  return EXIT.done;
}

/** @throws WrongUse when nothing is said, or something that cannot be. */
function changed<T extends z.ZodType>(schema: T, said: object, { retire, back }: Retiring): z.infer<T> {
  if (retire && back) throw new WrongUse('--retire and --back are opposites: say one of them.');
  const retired = retire ? { retired: true } : back ? { retired: false } : {};
  const change = { ...said, ...retired };
  if (!Object.keys(change).length) throw new WrongUse('Say what is to be corrected: see --help.');
  const parsed = schema.safeParse(change);
  if (!parsed.success) throw new WrongUse(z.prettifyError(parsed.error));
  return parsed.data;
}
