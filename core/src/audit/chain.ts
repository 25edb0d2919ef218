import canonicalize from 'canonicalize';

/** An event as the chain sees it: everything that is kept of it. */
export interface ChainedEvent {
  readonly id: number;
  /** ISO 8601, UTC. */
  readonly at: string;
  readonly kind: string;
  readonly intakeId: number | null;
  readonly who: string | null;
  readonly text: string;
  readonly data: unknown;
}

/** What stands before the first link: 32 zero bytes, as hexadecimal digits. */
export const GENESIS = '0'.repeat(64);

/**
 * What is hashed for a link: the hash before it and its event, written so that the same event is always the same text
 * (RFC 8785). @param before 64 hexadecimal digits @param position from 1 on
 */
export function linkText(before: string, position: number, event: ChainedEvent): string {
  const { id, at, kind, intakeId, who, text, data } = event;
  return canonicalize({ before, position, id, at, kind, intakeId, who, text, data: data ?? null })!;
}
