// One run per data folder. The lock of a killed run is taken over.
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { giveUp } from './say.mjs';

export function holdFolder(file, what) {
  mkdirSync(dirname(file), { recursive: true });
  if (existsSync(file)) {
    const { pid, address } = JSON.parse(readFileSync(file, 'utf8') || '{}');
    if (pid && pid !== process.pid && isAlive(pid))
      giveUp(`${what} is running already${address ? ` at ${address}` : ''} (process ${pid}).`);
  }
  const write = (more = {}) => writeFileSync(file, JSON.stringify({ pid: process.pid, ...more }));
  write();
  return { note: write, release: () => rmSync(file, { force: true }) };
}

function isAlive(pid) {
  try {
    process.kill(pid, 0);
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('tools/');
  } catch {
    return false;
  }
}
