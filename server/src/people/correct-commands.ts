import { AssignmentChange, ContributorChange, type CorrectionAnswer } from '@tally/contract';
import { z } from 'zod';
import { partsOfTyped } from '@tally/core/words';
import { EXIT, say, WHO, WrongUse } from '../cli/output.js';
import { changeSaid, type Setting } from '../cli/said.js';
import type { House } from '../house/index.js';
import { changeAssignment, changeContributor } from './correcting.js';
import { locationCalled, slipIds, termsCalled } from './named.js';

interface Retiring {
  readonly retire?: boolean;
  readonly back?: boolean;
}
interface Correcting extends Retiring {
  /** FIELD=VALUE */
  readonly set: readonly string[];
}

type Fields = Readonly<Record<string, Setting<House>>>;
const text =
  (field: string): Setting<House> =>
  (_house, value) => ({ [field]: value });
const terms: Setting<House> = async (house, value) => ({ termsId: value ? await termsCalled(house, value) : null });

/** What may be said of a contributor; an empty value says nothing, so that the next one speaks. */
const OF_CONTRIBUTOR: Fields = {
  ...{ given: text('given'), family: text('family'), kind: text('kind'), 'e-mail': text('email'), phone: text('phone') },
  ...{ address: text('address'), web: text('web'), notes: text('notes'), terms },
  ...{ credit: text('creditLine'), copyright: text('copyrightNotice') },
  minor: (_house, value) => ({ minor: yesOrNo(value) }),
  inside: (_house, value) => ({ inside: partsOfTyped(value).map((part) => (part === 'e-mail' ? 'email' : part)) }),
};

function yesOrNo(value: string): boolean {
  if (value !== 'yes' && value !== 'no') throw new WrongUse(`Say yes or no, not ${value || 'nothing'}.`);
  return value === 'yes';
}

/** What may be said of an assignment. */
const OF_ASSIGNMENT: Fields = {
  ...{ description: text('description'), contacts: text('contacts'), terms },
  embargo: (_house, value) => ({ embargoUntil: value || null }),
  location: async (house, value) => ({ locationId: value ? await locationCalled(house, value) : null }),
  words: (_house, value) => ({ words: partsOfTyped(value) }),
};

export const CONTRIBUTOR_SETS = Object.keys(OF_CONTRIBUTOR);
export const ASSIGNMENT_SETS = Object.keys(OF_ASSIGNMENT);

/** `tally contributor CODE [--name NAME] [--code CODE] [--set FIELD=VALUE]… [--retire | --back]` */
export async function contributorCommand(
  house: House,
  code: string,
  { retire, back, set, ...said }: Correcting & { name?: string; code?: string },
): Promise<number> {
  const change = changed(ContributorChange, { ...said, ...(await changeSaid(house, OF_CONTRIBUTOR, set)) }, { retire, back });
  const { contributorId } = await slipIds(house, { contributor: code });
  corrected(code.toUpperCase(), await changeContributor(house, contributorId!, change, WHO));
  return EXIT.done;
}

/** `tally assignment SLUG [--title …] [--slug …] [--from DAY] [--to DAY] [--place …] [--cards N] [--set FIELD=VALUE]… [--retire | --back]` */
export async function assignmentCommand(
  house: House,
  slug: string,
  {
    retire,
    back,
    set,
    cards,
    ...said
  }: Correcting & { title?: string; slug?: string; from?: string; to?: string; place?: string; cards?: string },
): Promise<number> {
  const expected = cards === undefined ? {} : { expectedCards: Number(cards) };
  const more = await changeSaid(house, OF_ASSIGNMENT, set);
  const change = changed(AssignmentChange, { ...said, ...expected, ...more }, { retire, back });
  const { assignmentId } = await slipIds(house, { assignment: slug });
  corrected(slug, await changeAssignment(house, assignmentId!, change, WHO));
  return EXIT.done;
}

function corrected(name: string, { items, following }: CorrectionAnswer): void {
  say(`${name} is corrected${items ? `: ${items} items say so; ${following} records beside the files are written anew` : ''}.`);
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
