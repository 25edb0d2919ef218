import { execFileSync } from 'node:child_process';

/** Runs a plain tool of the system. @returns what it prints. @throws when it says no. */
export const tool = (command: string, ...args: string[]): string =>
  execFileSync(command, args, { encoding: 'utf8', maxBuffer: 1 << 28 });

/** XXH128 of a file by Debian's xxhsum, as hex. */
export const xxh128sum = (path: string): string => tool('xxhsum', '-H2', path).split(/\s+/)[0]!;
