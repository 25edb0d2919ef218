import { execFileSync } from 'node:child_process';

/** Runs a plain tool of the system. @returns what it prints. @throws when it says no. */
export const tool = (command: string, ...args: string[]): string =>
  execFileSync(command, args, { encoding: 'utf8', maxBuffer: 1 << 28 });

/**
 * Compares files, byte for byte, by `cmp`, all of them in one go: beginning a process from one as large as a test's takes longer
 * than comparing. @throws when two differ or one is not there.
 */
export function compareAll(pairs: readonly (readonly [one: string, other: string])[]): void {
  const input = pairs.flat().join('\0');
  execFileSync('xargs', ['-0', '-r', '-n', '2', 'cmp'], { input, stdio: ['pipe', 'pipe', 'pipe'] });
}

/** XXH128 of a file by Debian's xxhsum, as hex. */
export const xxh128sum = (path: string): string => tool('xxhsum', '-H2', path).split(/\s+/)[0]!;

/** The same of many, in one go and in their order. */
export const xxh128sums = (paths: readonly string[]): string[] =>
  tool('xxhsum', '-H2', ...paths)
    .trim()
    .split('\n')
    .map((line) => /[0-9a-f]{32}/.exec(line)![0]);
