import { hash, verify } from '@node-rs/argon2';
import { commonPasswords, passwordFault } from '@tally/core/rights';
import pLimit from 'p-limit';
import { Refusal } from '../house/index.js';

/** Argon2id with the parameters that OWASP's password storage sheet lists first (19 MiB, 2 passes, 1 lane; from memory). */
const COST = { memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;

/** Hashing takes a core and 19 MiB each time: so many at once, and so many waiting, whoever asks. */
const AT_ONCE = 2;
const WAITING = 40;
const queue = pLimit(AT_ONCE);

function inQueue<T>(run: () => Promise<T>): Promise<T> {
  if (queue.pendingCount >= WAITING)
    throw new Refusal('not possible now', 'Too many people are signing in at this moment. Try again in a few seconds.');
  return queue(run);
}

export const hashPassword = (password: string): Promise<string> => inQueue(() => hash(password, COST));

let decoy: Promise<string> | undefined;

/** Compares a password; takes as long for a person who does not exist, or has none. */
export async function passwordFits(stored: string | null, password: string): Promise<boolean> {
  decoy ??= hashPassword('nobody has this password');
  const against = stored ?? (await decoy);
  const fits = await inQueue(() => verify(against, password));
  return stored !== null && fits;
}

let common: Promise<ReadonlySet<string>> | undefined;

/** @throws Refusal when a password will not do: too short, or one of the fifty thousand that everybody tries first. */
export async function mustDo(password: string): Promise<void> {
  common ??= import('@zxcvbn-ts/language-common').then(({ dictionary }) => commonPasswords(dictionary['passwords-common']));
  const fault = passwordFault(password, await common);
  if (fault) throw new Refusal('conflict', fault);
}
