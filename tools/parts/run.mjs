// Starting other programs: to the end, or alongside.
import { spawn, spawnSync } from 'node:child_process';
import { appendFileSync, writeFileSync } from 'node:fs';

/** Runs a program to its end. Returns { code, out, stdout }, `out` being all it said; with `loud` its output goes straight to the terminal. */
export function run(command, args, { cwd, env, loud = false, input } = {}) {
  const done = spawnSync(command, args, {
    cwd,
    env: { ...process.env, ...env },
    encoding: 'utf8',
    input,
    maxBuffer: 1 << 28,
    stdio: loud ? 'inherit' : ['pipe', 'pipe', 'pipe'],
  });
  return {
    code: done.status ?? (done.error ? 127 : 1),
    out: `${done.stdout ?? ''}${done.stderr ?? ''}`,
    stdout: done.stdout ?? '',
  };
}

/** Programs that run in the background, so many at once. */
export const laneOf = (most) => ({ most, running: 0, queue: [] });

/** The same in the background: with a lane, the rest of it waits for its turn. Resolves to { code, out, began } (ms). `log`: a file for what it says, as it says it. */
export function runSoon(command, args, { cwd, env, log, lane = laneOf(1) } = {}) {
  return new Promise((resolve) => {
    const begin = () => {
      lane.running++;
      const began = Date.now();
      const child = spawn(command, args, { cwd, env: { ...process.env, ...env }, stdio: ['ignore', 'pipe', 'pipe'] });
      let out = '';
      if (log) writeFileSync(log, '');
      const said = (text) => {
        out += text;
        if (log) appendFileSync(log, text);
      };
      for (const stream of [child.stdout, child.stderr]) stream.setEncoding('utf8').on('data', said);
      const done = (code) => {
        lane.running--;
        lane.queue.shift()?.();
        resolve({ code, out, began });
      };
      child.once('error', (error) => ((out += error.message), done(127)));
      child.once('close', (code) => done(code ?? 1));
    };
    if (lane.running < lane.most) begin();
    else lane.queue.push(begin);
  });
}

export const has = (command) => run('sh', ['-c', `command -v "${command}"`]).code === 0;

/** Starts a long-running program. Its output goes to the terminal. */
export function start(command, args, { cwd, env, quiet = false } = {}) {
  const out = quiet ? 'ignore' : 'inherit';
  return spawn(command, args, { cwd, env: { ...process.env, ...env }, stdio: ['ignore', out, out] });
}

/** Asks a child to end, and ends it after `ms`. */
export function end(child, ms = 8000) {
  return new Promise((resolve) => {
    if (child.exitCode !== null || child.signalCode !== null) return resolve();
    const timer = setTimeout(() => child.kill('SIGKILL'), ms);
    child.once('exit', () => {
      clearTimeout(timer);
      resolve();
    });
    child.kill('SIGTERM');
  });
}
