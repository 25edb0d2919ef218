import { DATE_ORDERS } from '@tally/core/capture';
import { z } from 'zod';
import { Id, Instant, line } from './primitives.js';

/** What a person may do. `hand-in` may hand in through the browser, and nothing else. */
export const ROLES = ['administrator', 'coordinator', 'hand-in'] as const;
export const Role = z.enum(ROLES);
export type Role = z.infer<typeof Role>;

export const SignIn = z.strictObject({ name: line(80), password: z.string().min(1).max(200) });
export type SignIn = z.infer<typeof SignIn>;

/** Somebody who is signed in. */
export const SignedIn = z.object({ id: Id, name: z.string(), role: Role });
export type SignedIn = z.infer<typeof SignedIn>;

export const Session = z.object({
  person: SignedIn,
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

/** How long a session lasts without being used. */
export const SESSION_MS = 12 * 3_600_000;
