import { EXIT, say, WHO, WrongUse } from '../cli/output.js';
import { ROLES } from '@tally/contract';
import { z } from 'zod';
import { Access, addPerson } from './sessions.js';
import type { House } from '../house/index.js';

/** `tally link`: makes a hand-in link. */
export async function linkCommand(house: House, options: { hours: string }): Promise<number> {
  const hours = Number(options.hours);
  if (!Number.isInteger(hours) || hours < 1 || hours > 72) throw new WrongUse('--hours is a whole number from 1 to 72.');
  const { token, expiresAt } = await new Access(house.db, house.clock).makeLink(hours, WHO);
  say(`http://${house.settings.host}:${house.settings.port}/hand-in#k=${token}`);
  say(`It is good until ${expiresAt.toISOString()}, and shown only now.`);
  return EXIT.done;
}

/** `tally person NAME --role ROLE`: adds somebody who may sign in; the password comes from TALLY_PASSWORD. */
export async function personCommand(house: House, name: string, options: { role: string }): Promise<number> {
  const role = z.enum(ROLES).safeParse(options.role);
  if (!role.success) throw new WrongUse(`--role is ${ROLES.join(', ')}.`);
  const password = process.env['TALLY_PASSWORD'] ?? '';
  if (password.length < 8)
    throw new WrongUse('Give a password of at least 8 characters in the environment variable TALLY_PASSWORD.');
  if (!(await addPerson(house.db, name, password, role.data, house.clock())))
    throw new WrongUse(`${name} signs in here already.`);
  say(`${name} may sign in as ${role.data}.`);
  return EXIT.done;
}
