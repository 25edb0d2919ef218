import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { limited } from '../aside/limited.js';

const execute = promisify(execFile);

/** Tools that decode what somebody hands in: a clip of 8K wants about half of it. */
export const TOOL_MEMORY_BYTES = 1.5e9;

/** Runs a tool that decodes, within limits of memory and time. @returns what it wrote. @throws when it failed or was ended. */
export async function runLimited(
  tool: string,
  args: readonly string[],
  options: { readonly timeout: number; readonly maxBuffer?: number },
): Promise<Buffer> {
  const { command, before } = limited({ memoryBytes: TOOL_MEMORY_BYTES }, tool);
  const { stdout } = await execute(command, [...before, ...args], { encoding: 'buffer', killSignal: 'SIGKILL', ...options });
  return stdout;
}
