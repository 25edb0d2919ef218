// One run per data folder. What a killed run left behind is ended, and its lock taken over.
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { giveUp, step } from './say.mjs';

/** @param what the words for a person who starts it twice. */
export async function holdFolder(file, what) {
  mkdirSync(dirname(file), { recursive: true });
  const before = existsSync(file) ? read(file) : {};
  if (before.pid && before.pid !== process.pid && commandOf(before.pid).includes('tools/')) {
    giveUp(`${what} is running already${before.address ? ` at ${before.address}` : ''} (process ${before.pid}).`);
  }
  await endLeftOvers(before.children ?? []);
  const write = (more = {}) => writeFileSync(file, JSON.stringify({ pid: process.pid, ...more }));
  write();
  return { note: write, release: () => rmSync(file, { force: true }) };
}

/** A run that was killed could not end its server: that is done now, so that two do not serve one house. */
async function endLeftOvers(pids) {
  const ours = pids.filter((pid) => /(server|standins)\/dist\//.test(commandOf(pid)));
  if (!ours.length) return;
  step('ending what a killed run left behind');
  for (const pid of ours) process.kill(pid, 'SIGTERM');
  for (let tries = 0; tries < 120 && ours.some((pid) => commandOf(pid)); tries++) await sleep(100);
  for (const pid of ours) if (commandOf(pid)) process.kill(pid, 'SIGKILL');
}

function read(file) {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    return {};
  }
}

/** The command line of a process, '' when there is none. */
function commandOf(pid) {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8');
  } catch {
    return '';
  }
}
