/** Where the chain ended at some moment. */
export interface Head {
  readonly position: number;
  /** 64 hexadecimal digits. */
  readonly hash: string;
  /** ISO 8601, UTC. */
  readonly at: string;
}

const LINE = /^(\d{4}-\d\d-\d\dT[\d:.]+Z) +(\d+) +([0-9a-f]{64})$/;

/** A head as a line of the file on the drive: when, how many events, the hash. */
export const headLine = ({ at, position, hash }: Head): string => `${at} ${position} ${hash}`;

/** The heads that a file says; lines that say something else are counted, and are somebody's doing. */
export function readHeads(text: string): { heads: Head[]; odd: number } {
  const lines = text.split(/\r?\n/).filter((line) => line.trim() !== '' && !line.startsWith('#'));
  const heads = lines.flatMap((line) => {
    const [, at, position, hash] = LINE.exec(line.trim()) ?? [];
    return at && position && hash ? [{ at, position: Number(position), hash }] : [];
  });
  return { heads, odd: lines.length - heads.length };
}
