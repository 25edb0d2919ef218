// Runs the built server in the foreground and waits until it answers.
import { join } from 'node:path';
import { ROOT } from './ready.mjs';
import { run, start } from './run.mjs';
import { giveUp } from './say.mjs';

/** Starts the server with a settings file; resolves when it answers. */
export async function startServer(settingsFile, port, env = {}) {
  const child = start(process.execPath, ['--enable-source-maps', join(ROOT, 'server/dist/main.js')], {
    cwd: ROOT,
    env: { TALLY_SETTINGS: settingsFile, UV_THREADPOOL_SIZE: '16', ...env },
  });
  await answers(child, `http://127.0.0.1:${port}/api/health`);
  return child;
}

/** Brings a house's database up to date as its owner: the server itself never learns that secret. */
export function migrated(settingsFile, adminUrl, env = {}) {
  const named = settingsFile ? ['--settings', settingsFile] : [];
  const done = run(process.execPath, [join(ROOT, 'server/bin/tally.mjs'), ...named, 'migrate'], {
    env: { ...env, TALLY_DATABASE_ADMIN_URL: adminUrl },
  });
  if (done.code !== 0) giveUp(`The database could not be brought up to date:\n${done.out}`);
}

export async function answers(child, url, seconds = 60) {
  for (let tries = 0; tries < seconds * 10; tries++) {
    if (child.exitCode !== null) giveUp('It ended before it answered. The reason stands above.');
    try {
      if ((await fetch(url)).ok) return;
    } catch {
      // Not listening yet.
    }
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  giveUp(`Nothing answers at ${url}.`);
}

/** Calls `end` once, on Ctrl-C, on being asked to end, and when one of the children ends by itself. */
export function untilStopped(children, end) {
  let ending = false;
  const once = async (code) => {
    if (ending) return;
    ending = true;
    await end();
    process.exit(code);
  };
  process.on('SIGINT', () => void once(0));
  process.on('SIGTERM', () => void once(0));
  for (const child of children) child.once('exit', () => void once(1));
}
