import { hash, verify } from '@node-rs/argon2';

/** Argon2id with the parameters that OWASP's password storage sheet lists first (19 MiB, 2 passes, 1 lane; from memory). */
const COST = { memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;

export const PASSWORD_MIN = 10;

export const hashPassword = (password: string): Promise<string> => hash(password, COST);

let decoy: Promise<string> | undefined;

/** Compares a password; takes as long for a person who does not exist. */
export async function passwordFits(stored: string | null, password: string): Promise<boolean> {
  decoy ??= hashPassword('nobody has this password');
  const fits = await verify(stored ?? (await decoy), password);
  return stored !== null && fits;
}
