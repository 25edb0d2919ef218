/** How long a password is, in characters (NIST SP 800-63B and OWASP ASVS 4.0.3, 2.1.1 and 2.1.2, from memory). */
export const PASSWORD_LENGTHS = { least: 12, most: 128 } as const;

/** Common passwords, ready to be asked. @param list lower-case or not, in any order */
export const commonPasswords = (list: readonly string[]): ReadonlySet<string> => new Set(list.map((one) => one.toLowerCase()));

/** A password that stands in the list, or is one of its lines written over and over: `passwordpassword`. */
export function isCommon(password: string, common: ReadonlySet<string>): boolean {
  const low = password.toLowerCase();
  if (common.has(low)) return true;
  const unit = shortestUnit(low);
  return unit.length < low.length && (unit.length < 4 || common.has(unit));
}

/** What a text is a repetition of; the text itself when it is none. */
function shortestUnit(text: string): string {
  // A text is a repetition exactly if it occurs in itself doubled, before its own end.
  return text.slice(0, (text + text).indexOf(text, 1));
}

/** What is wrong with a password, in words; null when it will do. Length and list are all that is asked. */
export function passwordFault(password: string, common: ReadonlySet<string>): string | null {
  const characters = Array.from(password).length;
  if (characters < PASSWORD_LENGTHS.least) return `A password has at least ${PASSWORD_LENGTHS.least} characters.`;
  if (characters > PASSWORD_LENGTHS.most) return `A password has at most ${PASSWORD_LENGTHS.most} characters.`;
  return isCommon(password, common) ? 'This password is one of those that everybody tries first. Take another.' : null;
}
