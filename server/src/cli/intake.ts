import { FootageRole, ROLES, Verdict, type BodyView } from '@tally/contract';
import { readTrueTime, shiftBetween, shiftInWords } from '@tally/core/capture';
import picomatch from 'picomatch';
import { z } from 'zod';
import { Access, addPerson } from '../people/sessions.js';
import type { Composition } from '../composition.js';
import { cameraBodies, correctClock, judgeItems, splitItems } from '../seeing/judge.js';
import { pictureAhead } from '../seeing/picture-ahead.js';
import { readIntake } from '../arriving/read-items.js';
import { receiveCard } from '../arriving/receive.js';
import { changeSlip, takeItems, theIntake } from '../slip/slip.js';
import { intakesWhere } from '../house/store/intakes.js';
import { itemsOf, type ItemRow } from '../seeing/store/items.js';
import { assignmentBySlug, contributorByCode } from '../people/store/people.js';
import { EXIT, jsonLine, table, WrongUse } from './output.js';

/** Who is named in the log for what is done here. */
const WHO = 'command line';

interface Slip {
  readonly contributor?: string;
  readonly assignment?: string;
}

/** The intake with a number such as 2026-0412. @throws WrongUse when there is none. */
export async function intakeNumbered({ house }: Composition, number: string): Promise<number> {
  const [intake] = await intakesWhere(house.db, 'i.number = $1', [number]);
  if (!intake) throw new WrongUse(`There is no intake ${number}.`);
  return intake.id;
}

/** Items of an intake whose paths fit one of these patterns (`DCIM/**`, `*.MP4`). @throws WrongUse when none does. */
export async function itemsThatFit(composition: Composition, intakeId: number, patterns: readonly string[]): Promise<ItemRow[]> {
  // A pattern without a folder is about names, wherever they lie.
  const anywhere = patterns.map((pattern) => (pattern.includes('/') ? pattern : `**/${pattern}`));
  const fits = picomatch(anywhere, { nocase: true, dot: true });
  const items = (await itemsOf(composition.house.db, intakeId)).filter((item) => item.setAside === null && fits(item.path));
  if (!items.length) throw new WrongUse(`No item of this intake fits ${patterns.join(' ')}.`);
  return items;
}

async function slipIds({ house: { db } }: Composition, slip: Slip) {
  const contributor = slip.contributor ? await contributorByCode(db, slip.contributor) : undefined;
  if (contributor === null) throw new WrongUse(`There is no contributor with the code ${slip.contributor}.`);
  const assignment = slip.assignment ? await assignmentBySlug(db, slip.assignment) : undefined;
  if (assignment === null) throw new WrongUse(`There is no assignment with the slug ${slip.assignment}.`);
  return {
    ...(contributor ? { contributorId: contributor.id } : {}),
    ...(assignment ? { assignmentId: assignment.id } : {}),
  };
}

const said = (count: number, words: string) => console.log(`${count} ${count === 1 ? 'item' : 'items'}: ${words}`);

/** `tally receive FOLDER`: opens and reads an intake without filing anything, so that it can be judged and split first. */
export async function receiveCommand(
  composition: Composition,
  folder: string,
  options: Slip & { label?: string; json?: boolean },
  signal: AbortSignal,
): Promise<number> {
  const { house } = composition;
  const slip = await slipIds(composition, options);
  const id = await receiveCard(house, folder, WHO);
  await readIntake(house, id, signal);
  const change = { ...slip, ...(options.label ? { cardLabel: options.label } : {}) };
  if (Object.keys(change).length) await changeSlip(house, id, change, WHO);
  const intake = await theIntake(house, id);
  const { number, items, bytes, alreadyFiled, state } = intake;
  if (options.json) jsonLine({ number, items, bytes, alreadyFiled, state });
  else console.log(`Intake ${number}: ${items} items, ${alreadyFiled} already filed.`);
  return EXIT.done;
}

/** `tally take|leave NUMBER PATTERN…` */
export async function takeCommand(composition: Composition, number: string, patterns: string[], taken: boolean): Promise<number> {
  const id = await intakeNumbered(composition, number);
  const items = await itemsThatFit(composition, id, patterns);
  await takeItems(composition.house, id, { itemIds: items.map((item) => item.id), taken });
  said(items.length, taken ? 'taken' : 'left');
  return EXIT.done;
}

/** `tally split NUMBER PATTERN… --assignment SLUG --contributor CODE` */
export async function splitCommand(composition: Composition, number: string, patterns: string[], slip: Slip): Promise<number> {
  const change = await slipIds(composition, slip);
  if (!Object.keys(change).length) throw new WrongUse('Say --assignment, --contributor or both.');
  const id = await intakeNumbered(composition, number);
  const items = await itemsThatFit(composition, id, patterns);
  const count = await splitItems(composition.house, id, { itemIds: items.map((item) => item.id), ...change }, WHO);
  said(count, [slip.assignment, slip.contributor].filter(Boolean).join(', '));
  return count ? EXIT.done : EXIT.attention;
}

/** `tally judge NUMBER PATTERN… --verdict select|reshoot|hold|none --description TEXT --role main|supporting|none --profile NAME` */
export async function judgeCommand(
  composition: Composition,
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
  const id = await intakeNumbered(composition, number);
  const items = await itemsThatFit(composition, id, patterns);
  await judgeItems(composition.house, id, {
    itemIds: items.map((item) => item.id),
    ...(verdict.data ? { verdict: verdict.data === 'none' ? null : verdict.data } : {}),
    ...(role.data ? { role: role.data === 'none' ? null : role.data } : {}),
    ...(options.profile !== undefined ? { profile: options.profile.trim().slice(0, 40) } : {}),
    ...(options.description !== undefined ? { description: options.description.trim().slice(0, 500) } : {}),
  });
  said(items.length, [options.verdict, options.description, options.role, options.profile].filter(Boolean).join(', '));
  return EXIT.done;
}

interface ClockOptions {
  readonly camera?: string;
  readonly item?: string;
  readonly true?: string;
  readonly seconds?: string;
  readonly zone?: string;
  readonly json?: boolean;
}

/** `tally clock NUMBER`: the cameras of an intake; with a camera and a shift, puts its clock right. */
export async function clockCommand(composition: Composition, number: string, options: ClockOptions): Promise<number> {
  const { house } = composition;
  const id = await intakeNumbered(composition, number);
  const bodies = await cameraBodies(house, id);
  if (!options.true && !options.seconds && !options.zone) return showBodies(bodies, options.json ?? false);
  const shift = await shiftOf(composition, id, options);
  const names = (body: BodyView) => [body.serial, body.model, [body.make, body.model].filter(Boolean).join(' ')];
  const wanted = shift.body ?? options.camera;
  const body = bodies.filter((one) => (wanted ? names(one).includes(wanted) : bodies.length === 1));
  if (body.length !== 1)
    throw new WrongUse(`Say which camera: --camera ${bodies.map((one) => one.serial ?? one.model).join(' | ')}`);
  const { make, model, serial } = body[0]!;
  const { seconds, kind } = shift;
  const count = await correctClock(house, id, { make, model, serial, shift: { seconds, kind } }, WHO);
  said(count, shiftInWords(seconds));
  return EXIT.done;
}

async function shiftOf(
  composition: Composition,
  id: number,
  options: ClockOptions,
): Promise<{ seconds: number; kind: 'clock' | 'zone'; body?: string }> {
  if (options.zone) {
    const hours = Number(options.zone);
    if (!Number.isFinite(hours) || Math.abs(hours) > 26) throw new WrongUse('--zone is a number of hours, such as 1 or -5.5.');
    return { seconds: Math.round(hours * 3600), kind: 'zone' };
  }
  if (options.seconds) {
    const seconds = Number(options.seconds);
    if (!Number.isInteger(seconds)) throw new WrongUse('--seconds is a whole number, such as 3492 or -60.');
    return { seconds, kind: 'clock' };
  }
  if (!options.item) throw new WrongUse('--true needs --item PATH: the picture whose true time is known.');
  const [item] = await itemsThatFit(composition, id, [options.item]);
  const moment = readTrueTime(options.true!, item!.cameraLocal);
  if (!moment) throw new WrongUse(`${options.true} is no time. Examples: 14:05, 2026-04-18 14:05:30.`);
  const body = item!.serial ?? item!.model;
  return { seconds: shiftBetween(item!.cameraLocal, moment), kind: 'clock', ...(body ? { body } : {}) };
}

function showBodies(bodies: readonly BodyView[], json: boolean): number {
  if (json) bodies.forEach(jsonLine);
  else
    table(
      ['camera', 'serial', 'items', 'first', 'last', 'moved', 'known as', 'found before'],
      bodies.map((body) => [
        ...[[body.make, body.model].filter(Boolean).join(' '), body.serial, body.items, body.first, body.last],
        ...[body.shiftSeconds ? shiftInWords(body.shiftSeconds) : '', body.owner?.name ?? ''],
        body.remembered ? shiftInWords(body.remembered.seconds) : '',
      ]),
    );
  return bodies.some((body) => body.unset > 0) ? EXIT.attention : EXIT.done;
}

/** `tally link`: makes a hand-in link. */
export async function linkCommand({ house }: Composition, options: { hours: string }): Promise<number> {
  const hours = Number(options.hours);
  if (!Number.isInteger(hours) || hours < 1 || hours > 72) throw new WrongUse('--hours is a whole number from 1 to 72.');
  const { token, expiresAt } = await new Access(house.db, house.clock).makeLink(hours, WHO);
  console.log(`http://${house.settings.host}:${house.settings.port}/hand-in#k=${token}`);
  console.log(`It is good until ${expiresAt.toISOString()}, and shown only now.`);
  return EXIT.done;
}

/** `tally person NAME --role ROLE`: adds somebody who may sign in; the password comes from TALLY_PASSWORD. */
export async function personCommand({ house }: Composition, name: string, options: { role: string }): Promise<number> {
  const role = z.enum(ROLES).safeParse(options.role);
  if (!role.success) throw new WrongUse(`--role is ${ROLES.join(', ')}.`);
  const password = process.env['TALLY_PASSWORD'] ?? '';
  if (password.length < 8)
    throw new WrongUse('Give a password of at least 8 characters in the environment variable TALLY_PASSWORD.');
  if (!(await addPerson(house.db, name, password, role.data, house.clock())))
    throw new WrongUse(`${name} signs in here already.`);
  console.log(`${name} may sign in as ${role.data}.`);
  return EXIT.done;
}

/** `tally previews`: makes every preview that is still missing, for a laptop that is back from the road. */
export async function previewsCommand({ house, previews }: Composition, signal: AbortSignal): Promise<number> {
  let made = 0;
  for (let some = -1; some !== 0 && !signal.aborted; made += some) some = await pictureAhead(house, previews);
  console.log(`${made} previews made.`);
  return EXIT.done;
}
