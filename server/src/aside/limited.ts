import { existsSync } from 'node:fs';

const PRLIMIT = '/usr/bin/prlimit';
const isHere = existsSync(PRLIMIT);

const SETPRIV = '/usr/bin/setpriv';
const canBind = existsSync(SETPRIV);

/**
 * A command that ends when this process does, however that ends, by util-linux's setpriv (PR_SET_PDEATHSIG, prctl(2)). Where there
 * is no setpriv it may outlive it.
 */
export const endsWithUs = (command: string): { command: string; before: string[] } =>
  canBind ? { command: SETPRIV, before: ['--pdeathsig', 'KILL', command] } : { command, before: [] };

/** What a process may use: bytes of memory that it can write to (RLIMIT_DATA, setrlimit(2)). */
export interface Limits {
  readonly memoryBytes: number;
}

/**
 * A command that runs within limits, by util-linux's prlimit: when it wants more memory it is told that there is none, or
 * dies, and nobody else does. Where there is no prlimit it runs without.
 */
export const limited = ({ memoryBytes }: Limits, command: string): { command: string; before: string[] } =>
  isHere ? { command: PRLIMIT, before: [`--data=${memoryBytes}`, '--core=0', command] } : { command, before: [] };
