import type { Must, SignedIn } from '@tally/contract';

/** Whoever asks for something: who it is, by which session, and what is still to be done before anything else. */
export interface Caller extends SignedIn {
  readonly sessionId: string;
  readonly endsAt: Date;
  readonly must: Must | null;
  /** The session was begun with a code: a password is to be chosen. */
  readonly byCode: boolean;
  readonly seesPersons: boolean;
  readonly hasPassword: boolean;
  readonly secondFactor: boolean;
}

/** From where somebody asks, as far as it can be told. */
export interface From {
  readonly address: string;
  /** What the browser says of itself. */
  readonly agent: string;
}

/** How texts are said to whoever may not see persons: with codes where names of minors stand, and `somebody` for who is pictured. */
export type Withholder = () => Promise<(text: string) => string>;

/** Knows whose a session's token is. */
export interface Access {
  who(token: string): Promise<Caller | null>;
  /** Is a session still good? Asking does not prolong it. */
  isThere(token: string): Promise<boolean>;
}
