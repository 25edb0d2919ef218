import type { RuleSource, Trial, Verdict } from '@tally/core/rule';
import workerpool from 'workerpool';
import { builtFile } from '../aside/built.js';
import type { judge } from './judge-thread.js';

/** Judging is bounded by its steps; this is for what nobody thought of. */
const LONGEST_MS = 10_000;

/**
 * The five verdicts on a rule, in a thread of their own: the server goes on answering meanwhile.
 * @throws when it takes too long.
 */
export async function judgeAside(source: RuleSource, trial: Trial): Promise<Verdict[]> {
  const pool = workerpool.pool(builtFile('./judge-thread.js', import.meta.url), { workerType: 'thread', maxWorkers: 1 });
  try {
    return (await pool.exec('judge', [source, trial]).timeout(LONGEST_MS)) as ReturnType<typeof judge>;
  } finally {
    await pool.terminate(true);
  }
}
