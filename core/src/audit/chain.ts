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

/** An event, written so that the same event is always the same text (RFC 8785). */
export function eventText({ id, at, kind, intakeId, who, text, data }: ChainedEvent): string {
  return canonicalize({ id, at, kind, intakeId, who, text, data: data ?? null })!;
}

/**
 * What is hashed for a link: the hash before it and the digest of its event. The event itself stands behind a digest with
 * salt so that somebody's name can be erased from it: the link holds on, and nobody can try names on the digest once the
 * salt is gone. @param before, digest 64 hexadecimal digits @param position from 1 on
 */
export function linkText(before: string, position: number, digest: string): string {
  return canonicalize({ before, position, digest })!;
}
