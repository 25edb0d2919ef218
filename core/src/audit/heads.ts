/** Where the chain ended at some moment. */
export interface Head {
  readonly position: number;
  /** 64 hexadecimal digits. */
  readonly hash: string;
  /** ISO 8601, UTC. */
  readonly at: string;
  /** In which epoch of the log; null: the line is of before they were counted. */
  readonly epoch: number | null;
}

const LINE = /^(\d{4}-\d\d-\d\dT[\d:.]+Z) +(\d+) +([0-9a-f]{64})(?: +(\d+))?$/;

/** A head as a line of the file on the drive: when, how many events, the hash, the epoch. */
export const headLine = ({ at, position, hash, epoch }: Head): string =>
  [at, position, hash, epoch].filter((part) => part !== null).join(' ');

/** The heads that a file says; lines that say something else are counted, and are somebody's doing. */
export function readHeads(text: string): { heads: Head[]; odd: number } {
  const lines = text.split(/\r?\n/).filter((line) => line.trim() !== '' && !line.startsWith('#'));
  const heads = lines.flatMap((line) => {
    const [, at, position, hash, epoch] = LINE.exec(line.trim()) ?? [];
    return at && position && hash
      ? [{ at, position: Number(position), hash, epoch: epoch === undefined ? null : Number(epoch) }]
      : [];
  });
  return { heads, odd: lines.length - heads.length };
}
