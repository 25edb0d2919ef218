import { DATE_ORDERS } from '@tally/core/capture';
import { DEEDS, MUSTS, ROLES, type Deed } from '@tally/core/rights';
import { z } from 'zod';
import { Id, Instant, line } from './primitives.js';

/** What a person may do: the table is core's. */
export const Role = z.enum(ROLES);
export type Role = z.infer<typeof Role>;

/** A password as somebody types it: longer ones than can be chosen are refused with words, not cut. */
const Typed = z.string().min(1).max(1_000);

export const SignIn = z.strictObject({
  name: line(80),
  password: Typed,
  /** Of the second factor, or a recovery code. */
  code: z.string().max(40).optional(),
});
export type SignIn = z.infer<typeof SignIn>;

/** Somebody who is signed in. */
export const SignedIn = z.object({ id: Id, name: z.string(), role: Role });
export type SignedIn = z.infer<typeof SignedIn>;

/** What has to be done before anything else can be. */
export const Must = z.enum(MUSTS);
export type Must = z.infer<typeof Must>;

export const Session = z.object({
  person: SignedIn,
  /** What this person may do here. */
  may: z.array(z.enum(Object.keys(DEEDS) as [Deed, ...Deed[]])),
  must: Must.nullable(),
  /** Has this person a password here, and a second factor? */
  hasPassword: z.boolean(),
  secondFactor: z.boolean(),
  /** When it ends, however much it is used. */
  endsAt: Instant,
  station: z.string(),
  house: z.string(),
  zone: z.string(),
  /** In which order the house writes a date in figures. */
  dates: z.enum(DATE_ORDERS),
  /** When the house's day begins, `HH:mm`: a night belongs to the day before it. */
  dayBegins: z.string(),
  /** The server's clock: the interface follows it, so that both speak of one day. */
  now: Instant,
});
export type Session = z.infer<typeof Session>;

/** How long a session lasts without being used, and however much it is. */
export const SESSION_MS = 12 * 3_600_000;
export const SESSION_LONGEST_MS = 7 * 24 * 3_600_000;

/** The own password, another one. `now` is not asked for where it was given by a code. */
export const PasswordChange = z.strictObject({ now: Typed.optional(), wish: Typed });
export type PasswordChange = z.infer<typeof PasswordChange>;

/** A second factor that is offered: what an app is told (`otpauth:` address, as text and as the data address of a code to scan), until it is confirmed. */
export const SecondFactorOffer = z.object({ secret: z.string(), address: z.string(), picture: z.string() });
export type SecondFactorOffer = z.infer<typeof SecondFactorOffer>;
export const SecondFactorProof = z.strictObject({ code: z.string().min(1).max(40) });
/** Each signs in once. Shown now, and never again. */
export const RecoveryCodes = z.object({ codes: z.array(z.string()) });
export type RecoveryCodes = z.infer<typeof RecoveryCodes>;

/** The local authority of this house, by the fingerprint (SHA-256) that people compare; null: it has none. */
export const AuthorityView = z.object({ fingerprint: z.string().nullable() });
export type AuthorityView = z.infer<typeof AuthorityView>;

/** The house's directory by which people may sign in, too; null: there is none. */
export const DirectoryView = z.object({ name: z.string().nullable() });
export type DirectoryView = z.infer<typeof DirectoryView>;

/** A browser that is signed in. */
export const SessionView = z.object({
  id: z.string(),
  begunAt: Instant,
  usedAt: Instant,
  endsAt: Instant,
  address: z.string(),
  /** What the browser says of itself. */
  agent: z.string(),
  /** Is it the one that asks? */
  here: z.boolean(),
});
export type SessionView = z.infer<typeof SessionView>;
export const SessionId = z.string().regex(/^[0-9a-f]{16}$/, 'is no session');
